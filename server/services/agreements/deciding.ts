import { and, asc, eq } from 'drizzle-orm'
import { type Decider, decidersOf } from '#core/approvers/authority.ts'
import type { Directory } from '#core/approvers/directory.ts'
import type { Ground } from '#server/app/app.ts'
import { agreement, edition, step, template } from '#server/db/schema.ts'
import { directoryOf, today } from '#server/services/rules/directory.ts'
import type { Step } from './routes.ts'

type Agreement = typeof agreement.$inferSelect

/** Who may decide what, on one day. */
export interface Authority {
  readonly directory: Directory
  readonly day: string
}

/** Who there is to decide today. */
export const authorityNow = async (ground: Ground): Promise<Authority> => ({
  directory: await directoryOf(ground.db),
  day: await today(ground),
})

/** Those who may decide a step now. */
export const decidersNow = (
  { directory, day }: Authority,
  { who, handedTo }: Pick<Step, 'who' | 'handedTo'>,
  { shapedBy }: Pick<Agreement, 'shapedBy'>,
): readonly Decider[] => decidersOf({ who, handedTo, shapedBy }, directory, day)

/** Steps that wait, with those who may decide them; a step that nobody may decide is a hole. */
export async function waitingSteps(ground: Ground) {
  const authority = await authorityNow(ground)
  const rows = await ground.db
    .select({ step, agreement, template: template.name })
    .from(step)
    .innerJoin(agreement, and(eq(agreement.id, step.agreementId), eq(agreement.revision, step.revision)))
    .innerJoin(edition, eq(edition.id, agreement.editionId))
    .innerJoin(template, eq(template.id, edition.templateId))
    .where(and(eq(step.state, 'waiting'), eq(agreement.state, 'in approval')))
    .orderBy(asc(step.since), asc(agreement.number))
  return rows.map((row) => ({ ...row, deciders: decidersNow(authority, row.step, row.agreement) }))
}
