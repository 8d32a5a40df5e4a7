import { expect } from 'chai'
import fc from 'fast-check'
import { number } from '#core/expression/values/value.ts'
import { coerce } from '#core/outline/coerce.ts'
import { dealRows } from '#core/records/deal-rows.ts'
import { filterProblem, filterRecords, hasWords } from '#core/records/filter.ts'
import { planImport } from '#core/records/import.ts'
import { fieldsOfKind, matchingFields } from '#core/records/kinds.ts'
import { prepareOutline } from '#core/outline/record.ts'
import type { RecordData } from '#core/outline/field.ts'
import { describeColumn } from '#core/sheet/columns.ts'

const customer = fieldsOfKind('customer', [
  { name: 'acres', label: 'Acres', type: 'number', required: false },
  { name: 'organic', label: 'Organic', type: 'yes/no', required: false },
])
const prepared = prepareOutline(customer)
if (!prepared.ok) throw new Error('unsound')
const records: readonly { data: RecordData; more?: readonly string[] }[] = [
  { data: { name: 'Foxford Farms', acres: '40', organic: true, email: 'a@fox.example' } },
  { data: { name: 'Brightwater Orchard', acres: '120' } },
  { data: { name: 'Elderbank', organic: false }, more: ['Larkmere'] },
]
const names = (filter: { search?: string; where?: string; sort?: string }) =>
  filterRecords(prepared.ready, records, { search: '', where: '', sort: '', ...filter }).map(
    ({ data }) => data['name'],
  )

describe('records in a list', () => {
  it('stand by name, or by a field either way with the empty ones last', () => {
    expect(names({})).to.deep.equal(['Brightwater Orchard', 'Elderbank', 'Foxford Farms'])
    expect(names({ sort: 'acres' })).to.deep.equal(['Foxford Farms', 'Brightwater Orchard', 'Elderbank'])
    expect(names({ sort: '-acres' })).to.deep.equal(['Brightwater Orchard', 'Foxford Farms', 'Elderbank'])
  })

  it('are found by words anywhere, also in what stands with them', () => {
    expect(names({ search: 'FARMS fox' })).to.deep.equal(['Foxford Farms'])
    expect(names({ search: 'larkmere' })).to.deep.equal(['Elderbank'])
    expect(hasWords(['a b'], '')).to.equal(true)
  })

  it('are filtered by a condition; what it cannot decide is left out', () => {
    expect(names({ where: 'acres > 50' })).to.deep.equal(['Brightwater Orchard'])
    expect(names({ where: 'organic' })).to.deep.equal(['Foxford Farms'])
    expect(filterProblem(customer, 'acres >')).to.be.a('string')
    expect(filterProblem(customer, 'hives > 3')).to.contain('hives')
    expect(filterProblem(customer, '')).to.equal(null)
  })
})

describe('an import into the record book', () => {
  const known = [
    { id: '1', data: { name: 'Foxford Farms', acres: '40' } },
    { id: '2', data: { name: 'Elderbank', acres: '12' } },
    { id: '3', data: { name: 'Twin', acres: '1' } },
    { id: '4', data: { name: 'twin ', acres: '2' } },
  ]
  const row = (number: number, data: RecordData) => ({ row: number, data, problems: [] })
  const plan = (...rows: ReturnType<typeof row>[]) => planImport(customer, rows, known, 'name')

  it('makes what is new, changes what differs, and leaves the rest untouched', () => {
    const [made, changed, same] = plan(
      row(2, { name: 'Brightwater', acres: '9' }),
      row(3, { name: 'foxford  farms', acres: '44' }),
      row(4, { name: 'Elderbank', acres: '12' }),
    )
    expect(made).to.deep.include({ kind: 'new', row: 2 })
    expect(changed).to.deep.include({ kind: 'changed', id: '1' })
    expect(changed?.kind === 'changed' && changed.differences).to.deep.include({
      field: 'acres',
      before: '40',
      after: '44',
    })
    expect(same).to.deep.equal({ kind: 'untouched', row: 4, id: '2' })
  })

  it('leaves what the sheet leaves empty as it is', () => {
    const [found] = plan(row(2, { name: 'Foxford Farms', email: 'a@fox.example' }))
    expect(found?.kind === 'changed' && found.data).to.deep.equal({
      name: 'Foxford Farms',
      acres: '40',
      email: 'a@fox.example',
    })
  })

  it('refuses a key that is empty, stands twice, or is several records’', () => {
    const kinds = plan(
      row(2, { acres: '1' }),
      row(3, { name: 'New' }),
      row(4, { name: 'NEW' }),
      row(5, { name: 'Twin' }),
    ).map((step) => (step.kind === 'faulty' ? step.problems[0]!.message : step.kind))
    expect(kinds).to.deep.equal([
      '“Name” is empty: the row cannot be matched.',
      'new',
      '“NEW” stands in row 3 already.',
      '2 records have the Name “Twin”.',
    ])
  })

  it('matches by fields that name something', () => {
    expect(matchingFields(customer).map(({ name }) => name)).to.deep.equal([
      'name',
      'legal_form',
      'email',
      'phone',
      'acres',
    ])
  })
})

describe('deals as rows of a source', () => {
  it('have their customer, contact and lines in columns, each cell of its kind', () => {
    const fields = {
      deal: fieldsOfKind('deal', [{ name: 'bloom', label: 'Bloom', type: 'date', required: false }]),
      customer: fieldsOfKind('customer', []),
      contact: fieldsOfKind('contact', []),
    }
    const { names: columns, rows } = dealRows(fields, [
      {
        data: {
          name: 'Brightwater, 2027',
          status: 'agreed',
          bloom: '2027-03-28',
          lines: [
            { item: 'Colony', quantity: '12', price: '195.00', tax: '6' },
            { item: 'Night delivery', quantity: '1' },
          ],
        },
        customer: { name: 'Brightwater', email: 'x@bright.example' },
        contact: null,
      },
    ])
    const at = (name: string) => rows[0]![columns.indexOf(name)]
    expect(at('Customer')).to.equal('Brightwater')
    expect(at('Customer e-mail')).to.equal('x@bright.example')
    expect(at('Contact')).to.equal(null)
    expect(at('Bloom')).to.deep.equal({ date: '2027-03-28' })
    expect(at('Line 1 price')).to.equal('195.00')
    expect(at('Line 1 tax')).to.equal('6 %')
    expect(at('Line 2 item')).to.equal('Night delivery')
    expect(columns.filter((name) => /^Line 3/.test(name))).to.deep.equal([])
  })

  it('give back every figure to its last digit: from the deal by a cell to the data it stays the same', () => {
    const digits = fc.stringMatching(/^-?(0|[1-9]\d{0,17})(\.\d{0,11}[1-9])?$/)
    const types = fc.constantFrom('number' as const, 'money' as const, 'percent' as const)
    const kinds = { contact: fieldsOfKind('contact', []), customer: fieldsOfKind('customer', []) }
    fc.assert(
      fc.property(digits, types, (value, type) => {
        const field = { name: 'share', label: 'Share', type, required: false }
        const { names: columns, rows } = dealRows({ ...kinds, deal: fieldsOfKind('deal', [field]) }, [
          { data: { name: 'Deal', share: value }, customer: null, contact: null },
        ])
        const cell = rows[0]![columns.indexOf('Share')]!
        expect(coerce(field, cell, null)).to.deep.equal({ ok: true, value: number(value).toFixed() })
        expect(describeColumn('Share', [cell]).type).to.equal(type === 'percent' ? 'percent' : 'number')
      }),
      {
        examples: [
          ['3.7', 'percent'],
          ['0.01', 'number'],
          ['12345678901234567.89', 'money'],
        ],
      },
    )
  })
})
