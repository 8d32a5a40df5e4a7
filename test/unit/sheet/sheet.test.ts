import { expect } from 'chai'
import { describeColumn } from '#core/sheet/columns.ts'
import type { CellRow } from '#core/outline/cell.ts'
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

  it('gives letters where no row has names, and refuses only what is empty', () => {
    expect(
      findHeader([
        [1, 2],
        [3, 4],
      ]),
    ).to.deep.equal({ ok: true, row: 0, lines: 0, names: ['Column A', 'Column B'] })
    expect(findHeader([])).to.deep.equal({ ok: false, problem: 'The sheet is empty.' })
    expect(findHeader([['Orchard', 'Crop']])).to.include({ ok: true, lines: 1 })
  })

  it('takes years among the names, and a name over figures where few columns have one', () => {
    const names = (rows: readonly CellRow[]) => {
      const found = findHeader(rows)
      return found.ok && [found.row, found.lines, ...found.names]
    }
    expect(
      names([
        ['Crop', 2026, 2027],
        ['Apples', 120, 140],
        ['Pears', 80, 60],
      ]),
    ).to.deep.equal([0, 1, 'Crop', '2026', '2027'])
    expect(
      names([
        ['Orchard', 1994],
        ['Brightwater', 2001],
      ]),
    ).to.deep.equal([0, 0, 'Column A', 'Column B'])
    expect(
      names([
        [null, 'Colonies'],
        ['Brightwater', 120],
        ['Stonegate', 80],
      ]),
    ).to.deep.equal([0, 1, 'Column A', 'Colonies'])
  })

  it('takes a joined title for no line of groups', () => {
    const title = [
      ['Bookings of the season 2027', null, null, 'as of March'],
      ['Orchard', 'Crop', 'Acres', 'Fee'],
      ['Brightwater', 'Apples', 120, 195],
    ]
    expect(findHeader(title, [{ row: 0, column: 0, rows: 1, columns: 3 }])).to.deep.include({
      row: 1,
      lines: 1,
      names: ['Orchard', 'Crop', 'Acres', 'Fee'],
    })
    const groups = [
      ['Orchard', 'Bloom', null, 'Fee'],
      [null, 'from', 'until', null],
      ['Brightwater', 1, 2, 195],
    ]
    expect(findHeader(groups, [{ row: 0, column: 1, rows: 1, columns: 2 }])).to.deep.include({
      lines: 2,
      names: ['Orchard', 'Bloom from', 'Bloom until', 'Fee'],
    })
  })

  it('counts in letters as spreadsheets do', () => {
    expect([0, 25, 26, 701, 702].map(columnLetters)).to.deep.equal(['A', 'Z', 'AA', 'ZZ', 'AAA'])
  })
})

describe('what a column holds', () => {
  it('is codes where one has leading zeros', () => {
    expect(describeColumn('Member', ['00417', '11250', '11251', '20001', '00090', '31002'])).to.include({
      type: 'text',
      fitting: 6,
    })
    expect(describeColumn('Acres', ['0.5', '12', '0'])).to.include({ type: 'number' })
  })

  it('is times, and dates with times, however they are written', () => {
    expect(describeColumn('From', [{ time: '06:30' }, '7:15', '6:30 pm'])).to.include({
      type: 'time',
      fitting: 3,
    })
    expect(
      describeColumn('At', [
        { dateTime: '2027-03-01T06:30' },
        '2027-03-02T07:00:00+02:00',
        '10/31/2027 12:30:00 PM',
        { date: '2027-03-01' },
      ]),
    ).to.include({ type: 'date and time', fitting: 4, dateOrder: 'month first' })
    expect(describeColumn('Day', ['10/31/2027 12:00:00 AM', '10/30/2027 12:00:00 AM'])).to.include({
      type: 'date',
      dateOrder: 'month first',
    })
  })

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
