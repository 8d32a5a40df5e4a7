import { expect } from 'chai'
import fc from 'fast-check'
import { suggestMapping } from '#core/mapping/suggest.ts'
import { suppliedFields } from '#core/merge/fields.ts'
import { groupRows } from '#core/run/group.ts'
import { duplicateProblems } from '#core/run/duplicates.ts'
import { type Cell, cellText } from '#core/outline/cell.ts'
import { describeColumn } from '#core/sheet/columns.ts'
import { HEADINGS, soundRows } from '#demo/bookings.ts'
import { seasonAgreement } from '#demo/season-agreement.ts'

const same = (a: Cell, b: Cell) =>
  cellText(a).trim().toLowerCase().replace(/\s+/g, ' ') ===
  cellText(b).trim().toLowerCase().replace(/\s+/g, ' ')

describe('grouping rows', () => {
  const customers = fc.constantFrom(
    'Brightwater',
    ' brightwater',
    'BRIGHTWATER ',
    'Foxford',
    'Sedge  Harbor',
    'Sedge Harbor',
    '',
  )
  const rows = fc
    .array(fc.tuple(customers, fc.constantFrom('Oregon', 'Idaho', '')), { maxLength: 30 })
    .map((all) => all.map(([name, state], i) => ({ row: i + 2, cells: [name, state, `lot ${i}`] as Cell[] })))
  const columns = ['Customer', 'State', 'Lot'].map((name) => describeColumn(name, ['x']))
  const by = fc.subarray(['Customer', 'State'])

  it('puts every row into exactly one group, in the order of the source', () =>
    fc.assert(
      fc.property(rows, by, (all, groupBy) => {
        const groups = groupRows(columns, groupBy, all)
        const numbers = groups.flat().map(({ row }) => row)
        expect([...numbers].sort((a, b) => a - b)).to.deep.equal(all.map(({ row }) => row))
        const firsts = groups.map(([first]) => first!.row)
        expect(firsts).to.deep.equal([...firsts].sort((a, b) => a - b))
        for (const group of groups)
          expect(group.map(({ row }) => row)).to.deep.equal(group.map(({ row }) => row).sort((a, b) => a - b))
      }),
    ))

  it('gives nobody a row of somebody else, and nobody two groups', () =>
    fc.assert(
      fc.property(rows, (all) => {
        const groups = groupRows(columns, ['Customer'], all)
        for (const group of groups)
          for (const { cells } of group) expect(same(cells[0]!, group[0]!.cells[0]!)).to.equal(true)
        const named = groups
          .map((group) => group[0]!.cells[0]!)
          .filter((cell) => cellText(cell).trim() !== '')
        named.forEach((one, i) =>
          named.slice(i + 1).forEach((other) => expect(same(one, other)).to.equal(false)),
        )
      }),
    ))

  it('leaves rows without a customer alone', () =>
    fc.assert(
      fc.property(rows, (all) => {
        for (const group of groupRows(columns, ['Customer'], all))
          if (cellText(group[0]!.cells[0]!).trim() === '') expect(group).to.have.length(1)
      }),
    ))
})

describe('customers that are there twice', () => {
  it('are asked about at every row but the first, each with the row of the first', () =>
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('Brightwater', 'FOXFORD', 'foxford ', ''), { maxLength: 25 }),
        (names) => {
          const rows = names.map((said, i) => ({ row: i + 2, said }))
          const problems = duplicateProblems(rows, [], { field: 'grower.name' })
          const first = new Map<string, number>()
          for (const { row, said } of rows) {
            const key = said.trim().toLowerCase()
            const before = key === '' ? undefined : first.get(key)
            if (before === undefined) {
              if (key) first.set(key, row)
              expect(problems.has(row)).to.equal(false)
            } else expect(problems.get(row)?.[0]?.message).to.contain(`row ${before} too`)
          }
        },
      ),
    ))
})

describe('suggesting a mapping', () => {
  const sound = soundRows()
  const columns = HEADINGS.map((name, i) =>
    describeColumn(
      name,
      sound.slice(0, 40).map((row) => row[i]!),
    ),
  )
  const outline = suppliedFields(seasonAgreement)

  it('does not depend on the order of the columns', () => {
    const usual = suggestMapping(outline, columns)
    fc.assert(
      fc.property(fc.shuffledSubarray([...columns], { minLength: columns.length }), (shuffled) => {
        expect(suggestMapping(outline, shuffled)).to.deep.equal(usual)
      }),
      { numRuns: 40 },
    )
  })

  it('feeds each field from one column and each column to one field, whichever columns there are', () =>
    fc.assert(
      fc.property(fc.subarray([...columns]), (some) => {
        const mapping = suggestMapping(outline, some)
        const used = Object.values(mapping)
        expect(new Set(used).size).to.equal(used.length)
        for (const name of used) expect(some.some((column) => column.name === name)).to.equal(true)
        for (const key of Object.keys(mapping))
          expect(
            outline.some(({ name }) => name === key),
            key,
          ).to.equal(true)
      }),
      { numRuns: 60 },
    ))
})
