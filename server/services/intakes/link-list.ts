import { desc, eq, sql } from 'drizzle-orm'
import type { App, Ground } from '#server/app/app.ts'
import { intakeAnswer, openLink } from '#server/db/schema.ts'

/** Where a form is found by a link. */
export const formUrl = (ground: Ground, token: string): string => `${ground.settings.publicUrl}/form/${token}`

/** Public addresses of a form, the newest first, with how many have handed in by each. */
export async function linksOf(app: App, formId: string) {
  const rows = await app.db
    .select({
      link: openLink,
      answers: sql<number>`(select count(*)::int from ${intakeAnswer}
        where ${intakeAnswer.linkId} = ${openLink.id} and ${intakeAnswer.handedInAt} is not null)`,
    })
    .from(openLink)
    .where(eq(openLink.formId, formId))
    .orderBy(desc(openLink.madeAt))
  return rows.map(({ link, answers }) => ({
    id: link.id,
    name: link.name,
    url: formUrl(app, app.secrets.open(link.token)),
    closesAt: link.closesAt?.toISOString() ?? null,
    mostAnswers: link.mostAnswers,
    perHour: link.perHour,
    origins: link.origins,
    closedAt: link.closedAt?.toISOString() ?? null,
    answers,
  }))
}
