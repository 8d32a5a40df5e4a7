import type { FieldType } from '#core/outline/field-kinds.ts'
import { expect } from 'chai'
import fc from 'fast-check'
import {
  comparisonsFor,
  type ConditionGroup,
  type ConditionRow,
  expressionToRows,
  rowsToExpression,
  valuesOf,
} from '#core/condition/rows.ts'

const types = new Map<string, FieldType>([
  ['land.leased', 'yes/no'],
  ['colonies', 'number'],
  ['crop', 'choice'],
  ['bloom.start', 'date'],
  ['county', 'text'],
  ['lots', 'list'],
])

const roundTrip = (text: string) => {
  const rows = expressionToRows(text)
  return rows && rowsToExpression(rows, types)
}

describe('conditions as rows', () => {
  for (const text of [
    'land.leased',
    'not(land.leased)',
    'colonies >= 400',
    'colonies in [100..400]',
    'crop in ("almond", "cherry")',
    'bloom.start < date("2027-03-01")',
    'contains(county, "Holl")',
    'starts with(county, "H")',
    'county = null',
    'county != null',
    'count(lots) = 0',
    'land.leased and colonies > 80 and crop = "almond"',
    'land.leased or colonies > 80',
    'land.leased and (colonies > 80 or crop = "pear")',
    '(land.leased or not(land.leased)) and colonies < -3.5',
  ])
    it(`are the other view of ${text}`, () => {
      expect(roundTrip(text)).to.equal(text)
    })

  for (const text of [
    'colonies * 2 > 80',
    'sum(lots.quantity) > 3',
    'if land.leased then true else false',
    'colonies in (1..3)',
    'colonies >',
  ])
    it(`leave ${text} an expression`, () => {
      expect(expressionToRows(text)).to.equal(null)
    })

  it('begin empty', () => {
    expect(expressionToRows('  ')).to.deep.equal({ join: 'all', parts: [] })
  })

  const row: fc.Arbitrary<ConditionRow> = fc.constantFrom(...types.keys()).chain((field) =>
    fc.constantFrom(...comparisonsFor(types.get(field)!)).chain((comparison) => {
      const type = types.get(field)!
      const value =
        type === 'number'
          ? fc.integer({ min: -999, max: 999 }).map(String)
          : type === 'date'
            ? fc.constantFrom('2027-01-31', '2026-12-01')
            : fc.constantFrom('almond', 'a "quoted" word', 'Hollin')
      const count = valuesOf(comparison)
      const values =
        count === 'many'
          ? fc.array(value, { minLength: 1, maxLength: 4 })
          : fc.array(value, { minLength: count, maxLength: count })
      return values.map((found) => ({ field, comparison, values: found }))
    }),
  )
  const group: fc.Arbitrary<ConditionGroup> = fc
    .tuple(
      fc.constantFrom('all' as const, 'any' as const),
      fc.array(row, { minLength: 2, maxLength: 4 }),
      fc.array(row, { minLength: 2, maxLength: 3 }),
    )
    .map(([join, rows, inner]) => ({
      join,
      parts: [...rows, { join: join === 'all' ? ('any' as const) : ('all' as const), parts: inner }],
    }))

  it('say the same after a way through the expression, whatever the rows', () => {
    fc.assert(
      fc.property(group, (made) => {
        const text = rowsToExpression(made, types)
        expect(expressionToRows(text), text).to.deep.equal(made)
      }),
      { numRuns: 200 },
    )
  })
})
