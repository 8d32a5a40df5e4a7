import { expect } from 'chai'
import fc from 'fast-check'
import {
  addInput,
  cellText,
  columnsOf,
  insertRow,
  moveRow,
  pasteBlock,
  readBlock,
  removeInput,
  removeRows,
  setCell,
  setOutputs,
  writeBlock,
} from '#core/rules/edit.ts'
import { testedBy } from '#core/rules/faults.ts'
import { seasonNames, tableOf } from '#test/support/rule-tables.ts'

const table = tableOf(
  'collect',
  ['total', 'crop'],
  [
    ['> 10', '-', 'legal'],
    ['-', '"apples"', 'finance'],
  ],
)
const reading = {
  testedOf: (id: string) =>
    testedBy(table.inputs.find((each) => each.id === id) ?? { expression: '' }, seasonNames),
  types: seasonNames.types,
}
const paste = (text: string, at = { row: 0, column: 0 }) => {
  let count = 0
  return pasteBlock(table, at, readBlock(text), reading, () => `new${++count}`)
}

describe('a rule table edited', () => {
  it('takes a block of another sheet, in that sheet’s words, and adds the rows it needs', () => {
    const pasted = paste(
      'over 80,000\talmonds\toperations director\r\n\tCherries, apples\tlegal\r\n5\t\tnobody\r\n',
    )
    expect(
      pasted.ok && pasted.table.rows.map(({ when, then }) => [when['in0'], when['in1'], then.approver]),
    ).to.deep.equal([
      ['> 80000', '"almonds"', 'operations director'],
      ['-', '"cherries", "apples"', 'legal'],
      ['5', '-', 'nobody'],
    ])
  })

  it('refuses more than it takes as a whole, and loses nothing', () => {
    const many = Array.from({ length: 5000 }, (_, i) => `> ${i}`).join('\n')
    expect(paste(many)).to.deep.equal({
      ok: false,
      problem: '5000 rows do not go in: a table has 1000 rows at the most. Nothing was pasted.',
    })
    expect(table.rows).to.have.length(2)
  })

  it('leaves what is wider than the table', () => {
    const pasted = paste('1\t2\t3\t4\t5\t6', { row: 1, column: 2 })
    expect(
      pasted.ok && [pasted.columns, pasted.table.rows[1]!.then.approver, pasted.table.rows[1]!.note],
    ).to.deep.equal([2, '1', '2'])
  })

  it('rows are moved, put in and taken out; a column takes its cells with it', () => {
    expect(moveRow(table, 0, 1).rows.map(({ id }) => id)).to.deep.equal(['row2', 'row1'])
    expect(moveRow(table, 5, 0)).to.equal(table)
    expect(insertRow(table, 1, 'x').rows.map(({ id }) => id)).to.deep.equal(['row1', 'x', 'row2'])
    expect(removeRows(table, [0]).rows.map(({ id }) => id)).to.deep.equal(['row2'])
    const without = removeInput(addInput(table, 'new', 'county'), 'in0')
    expect(without.inputs.map(({ id }) => id)).to.deep.equal(['in1', 'new'])
    expect(without.rows[0]!.when).not.to.have.property('in0')
    expect(columnsOf(setOutputs(table, ['approver', 'days'])).map((column) => column.kind)).to.deep.equal([
      'input',
      'input',
      'output',
      'output',
      'note',
    ])
    const noted = setCell(table, 0, { kind: 'note' }, 'as agreed')
    expect(cellText(noted.rows[0]!, { kind: 'note' })).to.equal('as agreed')
  })

  it('what is copied is read back as it was, whatever stands in it', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.array(
            fc.string().filter((text) => !text.includes('\r')),
            { minLength: 2, maxLength: 4 },
          ),
          { minLength: 1, maxLength: 5 },
        ),
        (cells) => {
          const width = cells[0]!.length
          const block = cells.map((line) => line.concat(Array<string>(width).fill('')).slice(0, width))
          expect(readBlock(writeBlock(block))).to.deep.equal(block)
        },
      ),
    ))
})
