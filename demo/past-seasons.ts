import { eq, sql } from 'drizzle-orm'
import Papa from 'papaparse'
import type { Person } from '#contract/person.ts'
import type { TemplateContent } from '#core/document/template.ts'
import type { App } from '#server/app/app.ts'
import { backgroundWork, series, template } from '#server/db/schema.ts'
import { readMapping, saveMapping } from '#server/services/sheets/mappings.ts'
import { generate, runWordings, tickWording } from '#server/services/runs/runs.ts'
import { startRun } from '#server/services/runs/run-setup.ts'
import { uploadSheet } from '#server/services/sheets/sheets.ts'
import { publish } from '#server/services/templates/templates.ts'
import { type BookingCell, HEADINGS, soundRows } from './bookings.ts'
import { salesSheet } from './colony-sale.ts'
import { pastApp, type PastApp } from './past-app.ts'
import { seeded } from './random.ts'
import { seasonAgreement } from './season-agreement.ts'

// What Larkmere made before the demo begins: two seasons and a year of sales. Drafts are made here, before anybody comes;
// what became of them follows in story.ts, behind the first start.

export const STORY = 'the demo’s past'

/** The wording of former seasons, before it was changed to what it is now. */
const FORMER: readonly {
  readonly season: number
  readonly was: readonly (readonly [now: string, then: string])[]
}[] = [
  {
    season: 2025,
    was: [
      ['at least 48 hours before it begins', 'at least 24 hours before it begins'],
      ['a distance of at least thirty feet', 'a distance of at least twenty feet'],
    ],
  },
  { season: 2026, was: [['a distance of at least thirty feet', 'a distance of at least twenty feet']] },
]

const day = (year: number, month: number, date: number, hour = 17) =>
  new Date(Date.UTC(year, month - 1, date, hour))

/** The season agreement as it was, each season's edition with its agreements in a series of their own. */
export async function loadFormerSeasons(
  app: App,
  ines: Person,
  templateId: string,
  share: number,
): Promise<void> {
  for (const { season, was } of FORMER) {
    const past = pastApp(app, day(season - 1, 11, 4))
    const content = was.reduce(
      (text, [now, then]) => text.replace(now, then),
      JSON.stringify(seasonAgreement),
    )
    const seriesId = `season-${season}`
    await app.db.insert(series).values({ id: seriesId, pattern: `LP-${season}-{n}` })
    await app.db
      .update(template)
      .set({ draft: JSON.parse(content) as TemplateContent, seriesId })
      .where(eq(template.id, templateId))
    await publish(past, ines, templateId, 1, `For the season ${season}`)
    past.at(day(season - 1, 12, 2))
    await makeRun(
      past,
      ines,
      templateId,
      `Season ${season}`,
      `bookings-${season}.csv`,
      formerBookings(season, share),
      {
        first_season: 'New grower',
      },
    )
  }
  await app.db
    .update(template)
    .set({ draft: seasonAgreement, seriesId: 'season' })
    .where(eq(template.id, templateId))
}

/** Colony sales of two springs, and of the last weeks before the demo begins. */
export async function loadFormerSales(app: App, ines: Person, saleId: string, share: number): Promise<void> {
  const today = app.now()
  const sale = async (made: Date, rows: number, name: string, handover: string) => {
    const past = pastApp(app, made)
    const text = salesSheet(Math.ceil(rows * share)).replaceAll('2027-05-', handover)
    await makeRun(past, ines, saleId, name, `${name.toLowerCase().replaceAll(' ', '-')}.csv`, text, {})
  }
  await sale(day(2025, 4, 7), 104, 'Colony sales 2025', '2025-05-')
  await sale(day(2026, 4, 8), 104, 'Colony sales 2026', '2026-05-')
  await sale(new Date(today.getTime() - 26 * 86_400_000), 18, 'Early sales for 2027', '2027-04-')
  await app.db.insert(backgroundWork).values({ name: STORY, label: 'The past seasons', startedAt: today })
}

/** The bookings of a former season: most of the same growers, fewer colonies at the prices of then. */
function formerBookings(season: number, share: number): string {
  const random = seeded(season)
  const before = 2027 - season
  const shifted: Partial<Record<(typeof HEADINGS)[number], (cell: BookingCell) => BookingCell>> = {
    Season: () => String(season),
    Colonies: (cell) => Math.max(16, Math.round((Number(cell) * random.between(80, 104)) / 800) * 8),
    'Price per colony': (cell) => Number(cell) - before * random.pick([6, 8, 10]),
    'New grower': (cell) => (random.next() < 0.06 ? 'yes' : cell),
  }
  const rows = soundRows()
    .filter(() => random.next() < 0.975 * share)
    .map((row) =>
      row.map((cell, i) => {
        const made = shifted[HEADINGS[i]!]?.(cell) ?? cell
        return made !== null && typeof made === 'object' ? made.date.replace('2027', String(season)) : made
      }),
    )
  return Papa.unparse({ fields: [...HEADINGS], data: rows })
}

async function makeRun(
  past: PastApp,
  ines: Person,
  templateId: string,
  name: string,
  sheetName: string,
  text: string,
  mapped: Readonly<Record<string, string>>,
): Promise<void> {
  const sheet = await uploadSheet(past, ines, sheetName, Buffer.from(text))
  const { columns } = await readMapping(past, sheet.id, templateId)
  await saveMapping(past, ines, sheet.id, templateId, { ...columns, ...mapped })
  const { id } = await startRun(past, ines, {
    name,
    templateId,
    sheetId: sheet.id,
    setup: {
      rule: null,
      groupBy: [],
      values: {},
      askRows: [],
      sameBy: null,
      duplicates: 'allow',
      languageColumn: null,
      copiesColumn: null,
      fileColumn: null,
      fileName: null,
    },
  })
  await past.work()
  for (const { key } of await runWordings(past, id)) await tickWording(past, ines, id, { key, read: true })
  await generate(past, ines, id)
  await past.work()
  await past.db.execute(sql`update run set generate_ended_at = ${past.now()} where id = ${id}`)
}
