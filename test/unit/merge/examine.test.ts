import { expect } from 'chai'
import fc from 'fast-check'
import { readRow } from '#core/mapping/apply.ts'
import { suggestMapping } from '#core/mapping/suggest.ts'
import { examine } from '#core/merge/examine.ts'
import { suppliedFields } from '#core/merge/fields.ts'
import { merge } from '#core/merge/merge.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { isItems, type RecordData } from '#core/outline/field.ts'
import { describeColumn } from '#core/sheet/columns.ts'
import { HEADINGS, soundRows } from '#demo/bookings.ts'
import { colonySale } from '#demo/colony-sale.ts'
import { priceSchedule } from '#demo/season-packet.ts'
import { siteAccess } from '#test/support/site-access.ts'
import { seasonAgreement } from '#demo/season-agreement.ts'

const prepared = (content: TemplateContent) => {
  const found = prepareTemplate(content)
  if (!found.ok) throw new Error(found.problems[0]!.message)
  return found.ready
}

/** What of a record is left out: of its own values, and of its lists' items. */
const without = (data: RecordData, gone: readonly boolean[]): RecordData => {
  let at = 0
  const stays = () => gone[at++ % gone.length] !== true
  return Object.fromEntries(
    Object.entries(data)
      .filter(stays)
      .map(([name, value]) => [
        name,
        isItems(value) ? value.map((item) => Object.fromEntries(Object.entries(item).filter(stays))) : value,
      ]),
  )
}

const rows = soundRows()
const columns = HEADINGS.map((name, i) =>
  describeColumn(
    name,
    rows.map((row) => row[i] ?? null),
  ),
)
const bookings = (content: TemplateContent) => {
  const fields = suppliedFields(content)
  const mapping = { ...suggestMapping(fields, columns), first_season: 'New grower' }
  return rows.slice(0, 40).map((row) => readRow(fields, columns, mapping, row).data)
}
const sale: RecordData = {
  ...Object.fromEntries(
    suppliedFields(colonySale)
      .filter(({ type, example }) => type !== 'list' && example !== undefined)
      .map(({ name, example }) => [name, example!]),
  ),
  lots: [
    { item_: 'Queen', item: 'Queen', grade: 'A', quantity: '3', price: '38.00', discount: '5', tax: '6' },
    { item_: 'Nucleus', item: 'Nucleus', grade: 'B', quantity: '2', price: '165.00' },
  ],
}

describe('examining a record', () => {
  for (const [name, content, records] of [
    ['season agreement', seasonAgreement, bookings(seasonAgreement)],
    ['price schedule', priceSchedule, bookings(priceSchedule)],
    ['site access', siteAccess, bookings(siteAccess)],
    ['colony sale', colonySale, [sale]],
  ] as const)
    it(`tells what merging tells, whatever is missing: ${name}`, () => {
      const ready = prepared(content)
      fc.assert(
        fc.property(
          fc.constantFrom(...records),
          fc.array(fc.boolean(), { minLength: 1, maxLength: 60 }),
          (record, gone) => {
            const data = without(record, gone)
            const { people, problems, wording } = merge(ready, data, null)
            expect(examine(ready, data)).to.deep.equal({ people, problems, wording })
          },
        ),
        { numRuns: 150 },
      )
    })
})
