import { randomUUID } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import { count, eq } from 'drizzle-orm'
import type { App } from '#server/app.ts'
import { migrate } from '#server/db/connect.ts'
import { person, ruleTable, series, template } from '#server/db/schema.ts'
import { roomFile } from '#server/files/room.ts'
import { hashPassword } from '#server/services/people.ts'
import { readMapping, saveMapping, uploadSheet } from '#server/services/sheets.ts'
import { publish } from '#server/services/templates.ts'
import { demoPassword, people } from './people.ts'
import { seasonAgreement } from './season-agreement.ts'

/** Loads the demo into an empty database; where people are, nothing is touched. True where it was loaded. */
export async function loadDemo(app: App, options: { sheet: boolean }): Promise<boolean> {
  await migrate(app.pool)
  const [there] = await app.db.select({ people: count() }).from(person)
  if (there?.people) return false
  const passwordHash = await hashPassword(demoPassword)
  await app.db
    .insert(person)
    .values(people.map((each) => ({ ...each, rights: [...each.rights], id: randomUUID(), passwordHash })))
  const [ines] = await app.db.select().from(person).where(eq(person.post, 'contract administrator'))
  await app.db.insert(series).values({ id: 'season', pattern: 'LP-2027-{n}' })
  const templateId = randomUUID()
  await app.db.insert(template).values({
    id: templateId,
    name: seasonAgreement.title,
    seriesId: 'season',
    draft: seasonAgreement,
    changedAt: app.now(),
    changedBy: ines!.id,
  })
  await publish(app, ines!, templateId, 1)
  await app.db.insert(ruleTable).values({
    id: randomUUID(),
    name: 'Season agreements',
    rules: [{ id: 'total', condition: 'total > 80000', approver: 'operations director' }],
  })
  if (options.sheet) {
    const sheet = await uploadSheet(
      app,
      ines!,
      'bookings-2027.xlsx',
      await readFile(roomFile('demo/sheets/bookings-2027.xlsx')),
    )
    const suggested = await readMapping(app, sheet.id, templateId)
    // The one column whose name says too little; in an upload of one's own it is left for the user to find.
    await saveMapping(app, sheet.id, templateId, { ...suggested.columns, first_season: 'New grower' })
  }
  return true
}
