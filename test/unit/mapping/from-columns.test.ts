import { expect } from 'chai'
import fc from 'fast-check'
import { fieldNameProblem } from '#core/outline/field.ts'
import { fieldsFromColumns, nameFromColumn } from '#core/mapping/from-columns.ts'
import { readRow } from '#core/mapping/apply.ts'
import { suggestMapping } from '#core/mapping/suggest.ts'
import type { Cell } from '#core/outline/cell.ts'
import { describeColumn } from '#core/sheet/columns.ts'
import { HEADINGS, soundRows } from '#demo/bookings.ts'

const column = (name: string, ...cells: readonly Cell[]) => describeColumn(name, cells)

describe('a name made of a column’s', () => {
  it('is in small letters, with signs as underlines', () => {
    expect(nameFromColumn('Contact mail address')).to.equal('contact_mail_address')
    expect(nameFromColumn('  Price / colony ($) ')).to.equal('price_colony')
    expect(nameFromColumn('Größe')).to.equal('größe')
    expect(nameFromColumn('2027 acres')).to.equal('n2027_acres')
    // A word of the expression language is no name.
    expect(nameFromColumn('If')).to.equal('if_')
    expect(nameFromColumn('***')).to.equal('field_')
  })

  it('can be a field’s, whatever the column is called', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 30 }), (text) => {
        expect(fieldNameProblem(nameFromColumn(text)), text).to.equal(null)
      }),
    )
  })
})

describe('an outline derived from a sheet', () => {
  it('has a field for each column, typed by what it holds', () => {
    const fields = fieldsFromColumns(
      [
        column('Orchard', 'Brightwater', 'Foxford'),
        column('Bloom from', { date: '2027-03-28' }, { date: '2027-04-01' }),
        column('Organic', 'yes', 'no'),
        column('E-mail', 'maud@brightwater.example', 'a@foxford.example'),
        column('Hives', 12, 40),
        column('Price per colony', 195, 204.5),
        column('Discount', 5, 0),
        column('Remark', null, null),
      ],
      [],
    )
    expect(fields.map(({ name, type }) => [name, type])).to.deep.equal([
      ['orchard', 'text'],
      ['bloom_from', 'date'],
      ['organic', 'yes/no'],
      ['e_mail', 'email'],
      ['hives', 'number'],
      ['price_per_colony', 'money'],
      ['discount', 'percent'],
      ['remark', 'text'],
    ])
    expect(fields.find(({ name }) => name === 'price_per_colony')!.currency).to.equal('USD')
    expect(fields.find(({ name }) => name === 'orchard')).to.include({
      required: true,
      example: 'Brightwater',
    })
    expect(fields.find(({ name }) => name === 'remark')!.required).to.equal(false)
  })

  it('makes one list of numbered columns, none of a number that stands once', () => {
    const fields = fieldsFromColumns(
      [
        column('Lot 1 kind', 'Queen'),
        column('Lot 1 price', 38),
        column('Lot 2 kind', 'Nucleus'),
        column('Lot 2 price', null),
        column('Section 4 note', 'x'),
      ],
      [],
    )
    expect(fields.map(({ name, type }) => [name, type])).to.deep.equal([
      ['section_4_note', 'text'],
      ['lots', 'list'],
    ])
    expect(fields[1]!.items!.map(({ name, type, required }) => [name, type, required])).to.deep.equal([
      ['kind', 'text', false],
      ['price', 'money', false],
    ])
  })

  it('gives no name twice, and none that the outline has', () => {
    const before = fieldsFromColumns([column('Hives', 1)], [])
    const more = fieldsFromColumns([column('Hives!', 'many'), column('hives ?', 'few')], before)
    const names = [...before, ...more].map(({ name }) => name)
    expect(new Set(names).size).to.equal(names.length)
  })

  it('leaves out columns that feed fields there are', () => {
    const columns = [column('Orchard', 'Brightwater'), column('Hives', 12)]
    const [orchard] = fieldsFromColumns(columns.slice(0, 1), [])
    expect(fieldsFromColumns(columns, [orchard!]).map(({ name }) => name)).to.deep.equal(['hives'])
  })

  it('is fed by the very sheet it came from, without a fault', () => {
    const rows = soundRows()
    const columns = HEADINGS.map((name, i) =>
      describeColumn(
        name,
        rows.map((row) => row[i] ?? null),
      ),
    )
    const outline = fieldsFromColumns(columns, [])
    const mapping = suggestMapping(outline, columns)
    expect(Object.keys(mapping)).to.have.length(HEADINGS.length)
    for (const row of rows) expect(readRow(outline, columns, mapping, row).problems).to.deep.equal([])
  })
})
