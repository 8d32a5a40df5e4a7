import { expect } from 'chai'
import fc from 'fast-check'
import Papa from 'papaparse'
import { cellFault, describeColumn, evidence } from '#core/sheet/columns.ts'
import { columnLetters, columnOfLetters, findHeader } from '#core/sheet/header.ts'
import { cropRows, parseRange, rangeText } from '#core/sheet/range.ts'
import { findTable, type TableFound } from '#core/sheet/table.ts'
import { harmless, writeCsv } from '#core/sheet/write.ts'

const tableOf = (...asked: Parameters<typeof findTable>): TableFound => {
  const found = findTable(...asked)
  if (!found.ok) throw new Error(found.problem)
  return found
}

describe('a table in a sheet', () => {
  it('has its rows numbered as the sheet counts, without those that are empty', () => {
    const { rows, headerRow } = tableOf([['Bookings'], [], ['Orchard', 'Acres'], ['a', 1], [], ['b', 2]])
    expect(headerRow).to.equal(3)
    expect(rows.map(({ row }) => row)).to.deep.equal([4, 6])
  })

  it('sets totals and repeated names aside, with the reason, and types the columns without them', () => {
    const { rows, columns, notes } = tableOf([
      ['Orchard', 'Acres'],
      ['Brightwater', 12],
      ['Orchard', 'Acres'],
      ['Total Eclipse Farm, Hollin', 'many'],
      ['Foxford', 30],
      ['Total', 42],
      ['Grand total', '$42.00'],
    ])
    expect(rows.map(({ aside }) => aside)).to.deep.equal([
      null,
      'The column names again.',
      null,
      null,
      'A row of totals, not of data.',
      'A row of totals, not of data.',
    ])
    expect(columns[1]).to.include({ filled: 3 })
    expect(notes[0]).to.contain('Rows 3, 6, 7 are set aside')
  })

  it('sets hidden rows and a second line of names aside, and fills what is joined downwards', () => {
    const rows = [
      ['County', 'Orchard', 'Acres', 'Bloom'],
      ['', '', 'acres', 'month and day'],
      ['Hollin', 'Brightwater', 12, { date: '2027-03-01' }],
      [null, 'Foxford', 30, { date: '2027-03-02' }],
      [null, 'Stonegate', 44, { date: '2027-03-05' }],
      ['Marl', 'Hidden', 50, { date: '2027-03-09' }],
      ['Marl', 'Seen', 51, { date: '2027-03-10' }],
    ]
    const found = tableOf(rows, {
      joined: [{ row: 2, column: 0, rows: 3, columns: 1 }],
      hidden: new Set([5]),
    })
    expect(found.rows.map(({ row, aside }) => [row, aside])).to.deep.equal([
      [2, 'A second line of names, not of data.'],
      [3, null],
      [4, null],
      [5, null],
      [6, 'Hidden in the sheet, by hand or by its filter.'],
      [7, null],
    ])
    expect(found.rows.slice(1, 4).map(({ cells }) => cells[0])).to.deep.equal(['Hollin', 'Hollin', 'Hollin'])
    expect(found.columns.map(({ type }) => type)).to.deep.equal(['text', 'text', 'number', 'date'])
    expect(found.notes.join(' ')).to.contain('joined downwards').and.to.contain('set aside')
  })

  it('keeps cells that go beyond the names, in columns of their own', () => {
    const { columns, notes, rows } = tableOf([
      ['Orchard', 'Acres'],
      ['a', 1],
      ['b', 2, 'call first'],
    ])
    expect(columns.map(({ name }) => name)).to.deep.equal(['Orchard', 'Acres', 'Column C'])
    expect(rows[1]!.cells[2]).to.equal('call first')
    expect(notes[0]).to.contain('Row 3 has more cells than there are column names')
  })

  it('takes the row of names that somebody points at', () => {
    const rows = [
      ['Season', 'County'],
      ['Orchard', 'Acres'],
      ['a', 'b'],
    ]
    expect(tableOf(rows).columns[0]!.name).to.equal('Season')
    expect(tableOf(rows, { headerRow: 2 }).columns[0]!.name).to.equal('Orchard')
    expect(findTable(rows, { headerRow: 9 })).to.deep.equal({
      ok: false,
      problem: 'Row 9 is empty; it cannot name the columns.',
    })
  })

  it('reads names under a joined cell together with it, and a title over the whole width not', () => {
    const rows = [
      ['Bookings 2027', null, null],
      ['Orchard', 'Bloom', null],
      [null, 'from', 'until'],
      ['Brightwater', 'x', 'y'],
    ]
    const joined = [
      { row: 0, column: 0, rows: 1, columns: 3 },
      { row: 1, column: 0, rows: 2, columns: 1 },
      { row: 1, column: 1, rows: 1, columns: 2 },
    ]
    const found = findHeader(rows, joined)
    expect(found).to.deep.equal({
      ok: true,
      row: 1,
      lines: 2,
      names: ['Orchard', 'Bloom from', 'Bloom until'],
    })
    expect(tableOf(rows, { joined }).rows.map(({ row }) => row)).to.deep.equal([4])
  })
})

describe('what a column tells of itself', () => {
  const dates = [{ date: '2027-03-01' }, 'TBD', { date: '2027-03-02' }, '2nd week', { date: '2027-03-04' }]
  const many = [...Array.from({ length: 20 }, () => ({ date: '2027-03-01' })), ...dates]

  it('is how many cells are of its type, and the rows of those that are not', () => {
    const rows = many.map((_, i) => i + 17)
    expect(evidence(describeColumn('Bloom', many, { rows }))).to.equal('23 dates, 2 not: rows 38, 40')
    expect(evidence(describeColumn('Notes', [null]))).to.equal('empty')
  })

  it('gives way to what somebody has said', () => {
    const said = describeColumn('ZIP', ['01234', '97301', 'x'], { said: { type: 'number' } })
    expect(said).to.include({ type: 'number', fitting: 1, filled: 3 })
    expect(
      describeColumn('Day', ['3/4/2027', '5/6/2027'], { said: { dateOrder: 'day first' } }),
    ).to.deep.include({ dateOrder: 'day first', unsure: [] })
  })

  it('asks once about dates that can be read both ways, with examples', () => {
    expect(describeColumn('Day', ['3/4/2027', '4/4/2027', '5/6/2027']).unsure).to.deep.equal([
      '3/4/2027',
      '5/6/2027',
    ])
    expect(describeColumn('Day', ['3/4/2027', '28/6/2027']).unsure).to.deep.equal([])
  })

  it('says of a cell what is wrong with it, in words; of an open order nothing', () => {
    const column = describeColumn('Bloom', many)
    expect(cellFault(column, 'TBD')).to.equal('“TBD” is not a date.')
    expect(cellFault(column, 46114)).to.contain('has lost its date format')
    expect(cellFault(column, '3/4/2027')).to.equal(null)
    expect(cellFault(column, null)).to.equal(null)
    expect(cellFault(describeColumn('Name', ['a']), { error: '#REF!' })).to.contain('#REF!')
  })
})

describe('ranges', () => {
  it('are read with and without signs, whole columns too, and refused where they are none', () => {
    expect(parseRange('$B$3:D10')).to.deep.equal({ top: 2, left: 1, bottom: 9, right: 3 })
    expect(parseRange('A:C')).to.include({ top: 0, left: 0, right: 2 })
    expect(parseRange('F9:A2')).to.deep.equal({ top: 1, left: 0, bottom: 8, right: 5 })
    expect(['', 'A3', 'A3:B', 'bookings', 'A0:B2'].map(parseRange)).to.deep.equal([
      null,
      null,
      null,
      null,
      null,
    ])
  })

  it('come back as they were written (property)', () => {
    const place = fc.nat(15_000)
    fc.assert(
      fc.property(
        fc.record({ top: fc.nat(90_000), left: place, height: fc.nat(50), width: fc.nat(50) }),
        (each) => {
          const range = {
            top: each.top,
            left: each.left,
            bottom: each.top + each.height,
            right: each.left + each.width,
          }
          expect(parseRange(rangeText(range))).to.deep.equal(range)
          expect(columnOfLetters(columnLetters(each.left))).to.equal(each.left)
        },
      ),
    )
  })

  it('cut their cells out', () => {
    expect(
      cropRows([['a', 'b', 'c'], ['d', 'e', 'f'], ['g']], { top: 1, left: 1, bottom: 5, right: 2 }),
    ).to.deep.equal([['e', 'f'], []])
  })
})

describe('what is written for a spreadsheet to open', () => {
  it('runs no formula: whatever could be one gets an apostrophe, numbers stay numbers', () => {
    expect(harmless('=HYPERLINK("x")')).to.equal(`'=HYPERLINK("x")`)
    expect(harmless('@SUM(A1)')).to.equal(`'@SUM(A1)`)
    expect(harmless('+1+cmd')).to.equal(`'+1+cmd`)
    expect(harmless('-12.50')).to.equal('-12.50')
    expect(harmless('Brightwater')).to.equal('Brightwater')
  })

  it('comes back from a reader of RFC 4180 cell by cell (property)', () => {
    const cell = fc.string({ unit: 'grapheme' }).map((text) => text.replaceAll('\0', ''))
    fc.assert(
      fc.property(fc.array(fc.array(cell, { minLength: 2, maxLength: 5 }), { minLength: 1 }), (rows) => {
        const { data } = Papa.parse<string[]>(writeCsv(rows).replace(/\r\n$/, ''), { delimiter: ',' })
        expect(data).to.deep.equal(rows.map((row) => row.map(harmless)))
      }),
    )
  })
})
