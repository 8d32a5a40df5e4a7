import { expect } from 'chai'
import { describeColumn } from '#core/sheet/columns.ts'
import { columnLetters, findHeader } from '#core/sheet/header.ts'

describe('finding the row of column names', () => {
  it('passes over a title and blank rows above it', () => {
    const found = findHeader([
      ['Bookings 2027'],
      [],
      ['Orchard', 'Colonies', 'Bloom'],
      ['Brightwater', 120, null],
    ])
    expect(found).to.deep.equal({ ok: true, row: 2, lines: 1, names: ['Orchard', 'Colonies', 'Bloom'] })
  })

  it('names what has no name by its letter and tells equal names apart', () => {
    const found = findHeader([
      ['Name', 'Name', null, 'Crop'],
      ['a', 'b', 'c', 'd'],
    ])
    expect(found.ok && found.names).to.deep.equal(['Name', 'Name (2)', 'Column C', 'Crop'])
  })

  it('refuses a sheet of data alone, an empty one, and one without data', () => {
    expect(
      findHeader([
        [1, 2],
        [3, 4],
      ]),
    ).to.include({ ok: false })
    expect(findHeader([])).to.deep.equal({ ok: false, problem: 'The sheet is empty.' })
    expect(findHeader([['Orchard', 'Crop']])).to.include({ ok: false })
  })

  it('counts in letters as spreadsheets do', () => {
    expect([0, 25, 26, 701, 702].map(columnLetters)).to.deep.equal(['A', 'Z', 'AA', 'ZZ', 'AAA'])
  })
})

describe('what a column holds', () => {
  it('is told with the evidence and the cells that differ', () => {
    const column = describeColumn('Bloom', [
      { date: '2027-03-01' },
      { date: '2027-03-02' },
      'TBD',
      null,
      { date: '2027-03-03' },
      { date: '2027-03-09' },
    ])
    expect(column).to.include({ type: 'date', fitting: 4, filled: 5 })
    expect(column.odd).to.deep.equal([2])
  })

  it('keeps numbers with leading zeros as text: they are codes', () => {
    expect(describeColumn('ZIP', ['01234', '00456']).type).to.equal('text')
    expect(describeColumn('Colonies', ['120', '1,040', '16']).type).to.equal('number')
  })

  it('learns from telling dates which number is the month', () => {
    expect(describeColumn('Bloom', ['3/4/2027', '3/27/2027']).dateOrder).to.equal('month first')
    expect(describeColumn('Bloom', ['3/4/2027', '27/3/2027']).dateOrder).to.equal('day first')
    expect(describeColumn('Bloom', ['3/4/2027', '5/6/2027']).dateOrder).to.equal(null)
  })

  it('is nothing where all cells are empty', () => {
    expect(describeColumn('Notes', [null, '', ' '])).to.include({ type: 'empty', filled: 0 })
  })
})
