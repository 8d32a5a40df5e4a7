import { expect } from 'chai'
import fc from 'fast-check'
import { evenRows } from '#core/merge/even-table.ts'
import type { FinishedRow } from '#core/merge/finished.ts'

const cell = (colspan = 1, rowspan = 1): FinishedRow['cells'][number] => ({
  blocks: [],
  colspan,
  rowspan,
  align: 'left',
  head: false,
})
const row = (...cells: FinishedRow['cells'][number][]): FinishedRow => ({ head: false, cells })

describe('a table made even', () => {
  it('stays as it is where every place has its cell', () => {
    const rows = [row(cell(2), cell()), row(cell(1, 2), cell(), cell()), row(cell(), cell())]
    expect(evenRows(rows)).to.deep.equal({ columns: 3, rows })
    expect(evenRows(rows).rows[0]).to.equal(rows[0])
  })

  it('gets cells where rows are too short, and loses what would reach past the last row', () => {
    const { columns, rows } = evenRows([row(cell(), cell(), cell()), row(cell(1, 9))])
    expect(columns).to.equal(3)
    expect(rows[1]!.cells.map(({ colspan, rowspan }) => [colspan, rowspan])).to.deep.equal([
      [1, 1],
      [1, 1],
      [1, 1],
    ])
  })

  it('fills every place exactly once, whatever the spans', () => {
    const anyRow = fc.record({
      head: fc.boolean(),
      cells: fc.array(
        fc
          .record({ colspan: fc.integer({ min: 1, max: 6 }), rowspan: fc.integer({ min: 1, max: 6 }) })
          .map(({ colspan, rowspan }) => cell(colspan, rowspan)),
        { maxLength: 6 },
      ),
    })
    fc.assert(
      fc.property(fc.array(anyRow, { minLength: 1, maxLength: 8 }), (given) => {
        const { columns, rows } = evenRows(given)
        const filled = rows.map(() => new Array<number>(columns).fill(0))
        rows.forEach(({ cells }, at) => {
          let column = 0
          for (const { colspan, rowspan } of cells) {
            while (filled[at]![column]) column++
            for (let down = 0; down < rowspan; down++)
              for (let right = 0; right < colspan; right++) filled[at + down]![column + right]!++
            column += colspan
          }
        })
        expect(filled.flat().every((times) => times === 1)).to.equal(true)
      }),
    )
  })
})
