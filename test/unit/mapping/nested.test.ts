import { expect } from 'chai'
import fc from 'fast-check'
import { readGroup } from '#core/mapping/apply.ts'
import { type Json, nestedColumns, nestedRows } from '#core/mapping/nested.ts'
import type { Outline } from '#core/outline/field.ts'
import { jsonSchemaOf } from '#core/outline/json-schema.ts'

const outline: Outline = [
  { name: 'season', label: 'Season', type: 'number', required: true },
  { name: 'grower.name', label: 'Grower', type: 'text', required: true },
  { name: 'grower.organic', label: 'Organic', type: 'yes/no', required: false },
  { name: 'discount', label: 'Discount', type: 'percent', required: false },
  { name: 'bloom', label: 'Bloom', type: 'date', required: false },
  { name: 'total', label: 'Total', type: 'money', required: false, computed: 'season * 2' },
  {
    name: 'lots',
    label: 'Lots',
    type: 'list',
    required: false,
    items: [
      { name: 'grade', label: 'Grade', type: 'choice', choices: ['A', 'B'], required: true },
      { name: 'colonies', label: 'Colonies', type: 'number', required: true },
    ],
  },
]

const { columns, mapping } = nestedColumns(outline)
function read(values: { readonly [name: string]: Json }) {
  const { rows, problems, pointerTo } = nestedRows(outline, values, '/data')
  const found = readGroup(outline, columns, mapping, rows)
  return {
    data: found.data,
    problems: [
      ...problems,
      ...found.problems.map((each) => ({ pointer: pointerTo(each), message: each.message })),
    ],
  }
}

describe('nested values of a program', () => {
  it('are read by groups, lists and types, numbers as they stand', () => {
    const { data, problems } = read({
      season: 2027,
      grower: { name: 'Harrow Lane', organic: true },
      discount: 12.5,
      bloom: '2027-02-11',
      lots: [
        { grade: 'A', colonies: 120 },
        { grade: 'B', colonies: '80' },
      ],
    })
    expect(problems).to.deep.equal([])
    expect(data).to.deep.equal({
      season: '2027',
      'grower.name': 'Harrow Lane',
      'grower.organic': true,
      discount: '12.5',
      bloom: '2027-02-11',
      lots: [
        { grade: 'A', colonies: '120' },
        { grade: 'B', colonies: '80' },
      ],
    })
  })

  it('are told at their place: what is missing, of another type, in the wrong shape, or no field at all', () => {
    const { problems } = read({
      season: { from: 2027 },
      grower: { nmae: 'Harrow Lane' },
      bloom: 'soon',
      total: 12,
      lots: [{ grade: 'A', colonies: 'many' }, 'second', { grade: 'C', colonies: 3, weight: 2 }],
    })
    expect(problems.map(({ pointer }) => pointer)).to.have.members([
      '/data/season',
      '/data/grower/nmae',
      '/data/total',
      '/data/lots/1',
      '/data/lots/2/weight',
      '/data/season',
      '/data/grower/name',
      '/data/bloom',
      '/data/lots/0/colonies',
      '/data/lots/2/grade',
    ])
    expect(problems.find(({ pointer }) => pointer.endsWith('nmae'))!.message).to.contain('grower.name')
    expect(problems.find(({ pointer }) => pointer === '/data/grower/name')!.message).to.equal(
      '“Grower” is missing.',
    )
  })

  it('of any number of items, in any order of names, are all there (property)', () => {
    const item = fc.record({ grade: fc.constantFrom('A', 'B'), colonies: fc.integer({ min: 0, max: 1e9 }) })
    fc.assert(
      fc.property(fc.array(item, { maxLength: 30 }), fc.boolean(), (lots, whole) => {
        const name: Readonly<Record<string, Json>> = whole
          ? { 'grower.name': 'Marlpit' }
          : { grower: { name: 'Marlpit' } }
        const { data, problems } = read({ lots, ...name, season: 2027 })
        expect(problems).to.deep.equal([])
        expect(data['lots'] ?? []).to.deep.equal(
          lots.map(({ grade, colonies }) => ({ grade, colonies: String(colonies) })),
        )
      }),
    )
  })

  it('never throw, whatever JSON it is (property)', () => {
    fc.assert(
      fc.property(
        fc.dictionary(
          fc.oneof(fc.constantFrom('season', 'grower', 'lots', '__proto__'), fc.string()),
          fc.jsonValue({ maxDepth: 4 }),
        ),
        (values) => {
          const { problems } = read(values as Record<string, Json>)
          for (const { pointer } of problems) expect(pointer).to.match(/^\/data/)
        },
      ),
    )
  })
})

describe('an outline as JSON Schema', () => {
  it('says what is sent, and not what is computed', () => {
    const schema = jsonSchemaOf(outline) as {
      properties: Record<string, { properties?: object; items?: { required: string[] } }>
      required: string[]
    }
    expect(Object.keys(schema.properties)).to.deep.equal(['season', 'discount', 'bloom', 'lots', 'grower'])
    expect(schema.required).to.deep.equal(['season', 'grower'])
    expect(schema.properties['lots']!.items!.required).to.deep.equal(['grade', 'colonies'])
  })
})
