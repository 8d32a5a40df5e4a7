import { type Cell, cellText, COLUMN_TYPES } from '#core/outline/cell.ts'
import { expect } from 'chai'
import fc from 'fast-check'
import { coerce } from '#core/outline/coerce.ts'
import type { Field } from '#core/outline/field.ts'
import { cellFault, describeColumn, evidence } from '#core/sheet/columns.ts'

const two = (n: number) => String(n).padStart(2, '0')

const anyCell: fc.Arbitrary<Cell> = fc.oneof(
  fc.constant(null),
  fc.constantFrom(
    '',
    ' ',
    'TBD',
    '12',
    '1,204.50',
    '0042',
    '5 %',
    'yes',
    'n',
    'maud@orchard.example',
    '3/4/2027',
  ),
  fc.constantFrom('27.3.2027', '2027-03-28', 'March 28, 2027', '$78,200.00', '#REF!'),
  fc.string({ maxLength: 12 }),
  fc.integer(),
  fc.boolean(),
  fc.constantFrom<Cell>({ date: '2027-03-28' }, { fraction: 0.05 }, { error: '#DIV/0!' }),
)

describe('describing any column', () => {
  const holds = (law: (cells: readonly Cell[]) => void) =>
    fc.assert(fc.property(fc.array(anyCell, { maxLength: 40 }), law), { numRuns: 400 })

  it('counts every filled cell once, as of its type or not', () =>
    holds((cells) => {
      const column = describeColumn('Any', cells)
      const filled = cells.filter((cell) => cellText(cell).trim() !== '').length
      expect(column.filled).to.equal(filled)
      expect(column.fitting + column.odd.length).to.equal(filled)
      expect(COLUMN_TYPES).to.include(column.type)
    }))

  it('names exactly the rows whose cells it finds a fault with', () =>
    holds((cells) => {
      const rows = cells.map((_, i) => i + 2)
      const column = describeColumn('Any', cells, { rows })
      const faulty = rows.filter((_, i) => cellFault(column, cells[i]!) !== null)
      expect(faulty).to.deep.equal(column.odd)
    }))

  it('calls a column more than text only where four of five cells agree', () =>
    holds((cells) => {
      const { type, fitting, filled } = describeColumn('Any', cells)
      if (type !== 'text' && type !== 'empty') expect(fitting).to.be.at.least(filled * 0.8)
    }))

  it('goes by what was said of it, whatever its cells hold', () =>
    fc.assert(
      fc.property(
        fc.array(anyCell, { minLength: 1, maxLength: 20 }),
        fc.constantFrom('text' as const, 'number' as const, 'date' as const, 'email' as const),
        (cells, type) => {
          expect(describeColumn('Any', cells, { said: { type } }).type).to.equal(type)
        },
      ),
    ))

  it('says how many and which, in words', () =>
    holds((cells) => {
      const column = describeColumn('Any', cells)
      const told = evidence(column)
      if (column.filled === 0) expect(told).to.equal('empty')
      else expect(told.startsWith(`${column.fitting} `)).to.equal(true)
      expect(told.includes('not:')).to.equal(column.filled > column.fitting)
    }))
})

describe('days and months written with numbers', () => {
  const day = fc.record({ day: fc.integer({ min: 1, max: 28 }), month: fc.integer({ min: 1, max: 12 }) })
  const days = fc.array(day, { minLength: 1, maxLength: 30 })
  const separator = fc.constantFrom('/', '.', '-')
  const field: Field = { name: 'delivery', label: 'Delivery', type: 'date', required: true }

  it('are read one way throughout once a cell tells which, and then every one as it was meant', () =>
    fc.assert(
      fc.property(days, separator, fc.boolean(), (found, between, dayFirst) => {
        const telling = [...found, { day: 27, month: 3 }]
        const written = telling.map(({ day: d, month }) =>
          [...(dayFirst ? [d, month] : [month, d]), 2027].join(between),
        )
        const column = describeColumn('Delivery', written)
        expect(column.type).to.equal('date')
        expect(column.dateOrder).to.equal(dayFirst ? 'day first' : 'month first')
        expect(column.unsure).to.deep.equal([])
        for (const [i, text] of written.entries()) {
          const read = coerce(field, text, column.dateOrder)
          const { day: d, month } = telling[i]!
          expect(read.ok && read.value, text).to.equal(`2027-${two(month)}-${two(d)}`)
        }
      }),
    ))

  it('are asked about, with examples, where none tells', () =>
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 1, max: 12 }), fc.integer({ min: 1, max: 12 })), {
          minLength: 1,
          maxLength: 20,
        }),
        (pairs) => {
          const column = describeColumn(
            'Delivery',
            pairs.map(([a, b]) => `${a}/${b}/2027`),
          )
          const open = pairs.filter(([a, b]) => a !== b)
          expect(column.dateOrder).to.equal(null)
          expect(column.unsure.length > 0).to.equal(open.length > 0)
          for (const example of column.unsure) {
            const [a, b] = example.split('/')
            expect(a).not.to.equal(b)
          }
        },
      ),
    ))

  it('that tell both ways settle nothing', () => {
    const column = describeColumn('Delivery', ['27/3/2027', '3/27/2027', '4/5/2027', '5/4/2027'])
    expect(column.dateOrder).to.equal(null)
    expect(column.unsure).to.deep.equal(['4/5/2027', '5/4/2027'])
  })
})

describe('columns that look like numbers', () => {
  it('stay text where they are codes: a zero in front is kept', () => {
    const column = describeColumn('ZIP', ['01201', '97301', '00044', '97302', '97303'])
    expect(column.type).to.equal('text')
    expect(column.samples).to.include('01201')
  })

  it('are percentages by their sign or their format, whichever way they are written', () => {
    for (const cells of [
      ['5 %', '12%', '7.5 %'],
      [{ fraction: 0.05 }, { fraction: 0.12 }],
      ['5 %', { fraction: 0.12 }],
    ] as const)
      expect(describeColumn('Discount', cells).type).to.equal('percent')
  })

  it('have formula errors told where they stand, and are numbers all the same', () => {
    const column = describeColumn('Acres', [12, 13, 14, 15, { error: '#REF!' }], { rows: [2, 3, 4, 5, 6] })
    expect(column).to.include({ type: 'number', fitting: 4, filled: 5 })
    expect(cellFault(column, { error: '#REF!' })).to.equal('The sheet has the error #REF! here.')
    expect(evidence(column)).to.equal('4 numbers, 1 not: row 6')
  })

  it('are numbers where each could be a time of day with a point, and times where one could be nothing else', () => {
    const typeOf = (...cells: Cell[]) => describeColumn('Column', cells).type
    expect(typeOf('6.30', '12.45', '9.00')).to.equal('number')
    expect(typeOf('06.30', '12.45', '09.00')).to.equal('time')
    expect(typeOf('6:30', '12:45')).to.equal('time')
    expect(typeOf('6.30 pm', '9.00 am')).to.equal('time')
    expect(describeColumn('Gate', ['6.30', '12.45'], { said: { type: 'time' } })).to.include({
      type: 'time',
      fitting: 2,
    })
  })
})
