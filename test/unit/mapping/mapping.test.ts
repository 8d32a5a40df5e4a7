import type { FieldType } from '#core/outline/field-kinds.ts'
import { expect } from 'chai'
import { mappingProblems, readRow } from '#core/mapping/apply.ts'
import { suggestMapping } from '#core/mapping/suggest.ts'
import type { Field } from '#core/outline/field.ts'
import { describeColumn } from '#core/sheet/columns.ts'
import { organisation } from '#demo/organisation.ts'

const field = (name: string, label: string, type: FieldType, required = true): Field => ({
  name,
  label,
  type,
  required,
})
const outline = [
  field('grower.name', 'Orchard', 'text'),
  field('grower.email', 'Contact’s mail address', 'email'),
  field('bloom.start', 'First day of bloom', 'date'),
  field('colonies', 'Colonies', 'number'),
]
const columns = [
  describeColumn('Orchard', ['Brightwater']),
  describeColumn('E-mail', ['maud@brightwater.example']),
  describeColumn('Mailing address', ['14 Weir Road']),
  describeColumn('Bloom from', [{ date: '2027-03-28' }]),
  describeColumn('Hives', [120]),
]

const own = organisation.synonyms

describe('suggesting a mapping', () => {
  it('goes by names, words of the same meaning and types', () => {
    expect(suggestMapping(outline, columns, { own })).to.deep.equal({
      'grower.name': 'Orchard',
      'grower.email': 'E-mail',
      'bloom.start': 'Bloom from',
      colonies: 'Hives',
    })
  })

  it('gives no column to two fields and none to a computed one', () => {
    const twice = [
      field('colonies', 'Colonies', 'number'),
      field('colonies_again', 'Colonies', 'number'),
      { ...field('hives', 'Hives', 'number'), computed: 'colonies * 2' },
    ]
    const found = suggestMapping(twice, [describeColumn('Colonies', [1])])
    expect(Object.keys(found)).to.have.length(1)
  })

  it('never guesses who signs: only a column that is called so feeds a field of a signer', () => {
    const asked = [
      field('signer.field_agent.email', 'Field agent: e-mail', 'text'),
      field('signer.field_agent.name', 'Field agent: name', 'text'),
    ]
    const alike = ['E-mail', 'Grower e-mail', 'Agent', 'Field agent']
    const cells = alike.map((name) => describeColumn(name, ['maud@brightwater.example']))
    expect(suggestMapping(asked, cells, { own })).to.deep.equal({})
    const called = describeColumn('Field agent: e-mail', ['ines@melloria.example'])
    expect(suggestMapping(asked, [...cells, called], { own })).to.deep.equal({
      'signer.field_agent.email': 'Field agent: e-mail',
    })
  })
})

describe('reading a row through a mapping', () => {
  const mapping = suggestMapping(outline, columns, { own })

  it('gives the data of the outline', () => {
    expect(
      readRow(outline, columns, mapping, [
        'Brightwater',
        'maud@brightwater.example',
        null,
        { date: '2027-03-28' },
        120,
      ]),
    ).to.deep.equal({
      data: {
        'grower.name': 'Brightwater',
        'grower.email': 'maud@brightwater.example',
        'bloom.start': '2027-03-28',
        colonies: '120',
      },
      problems: [],
    })
  })

  it('tells each value that is missing or wrong, with its column, and keeps the rest', () => {
    const { data, problems } = readRow(outline, columns, mapping, ['Brightwater', null, null, 'TBD', 'many'])
    expect(data).to.deep.equal({ 'grower.name': 'Brightwater' })
    expect(problems.map(({ column, message }) => `${column}: ${message}`)).to.deep.equal([
      'E-mail: “Contact’s mail address” is missing.',
      'Bloom from: “TBD” is not a date.',
      'Hives: “many” is not a number.',
    ])
  })

  it('finds a column that cannot be the right one', () => {
    const faults = mappingProblems(outline, columns, { 'bloom.start': 'Orchard' }, [['a'], ['b'], ['c']])
    expect(faults[0]!.message).to.contain('does not hold dates: 3 of 3')
  })
})
