import { expect } from 'chai'
import { callAt, partAt, signatureOf, suggestionsAt, wordAt } from '#core/expression/complete.ts'
import { compileExpression } from '#core/expression/compile.ts'
import { explain, withValues } from '#core/expression/explain.ts'
import { number, type Value } from '#core/expression/values/value.ts'

const names = new Map([
  ['grower.name', 'string'],
  ['colonies', 'number'],
  ['lots', 'list'],
  ['lots[].price', 'number'],
] as const)

describe('help while an expression is typed', () => {
  it('offers what begins with the word, fields before functions', () => {
    const found = suggestionsAt('co', 2, names).map(({ label }) => label)
    expect(found[0]).to.equal('colonies')
    expect(found).to.include.members(['contains', 'count', 'concatenate'])
    expect(found).not.to.include('lots[].price')
  })

  it('finds fields by the part behind a dot', () => {
    expect(suggestionsAt('name', 4, names).map(({ label }) => label)).to.include('grower.name')
  })

  it('offers nothing inside a text', () => {
    expect(wordAt('state = "Or', 11).text).to.equal('')
  })

  it('puts the cursor between the brackets of a function', () => {
    const found = suggestionsAt('add mon', 7, names).find(({ label }) => label === 'add months')
    expect(found).to.include({ insert: 'add months()', at: 11 })
  })

  it('knows which parameter is being typed', () => {
    const text = 'add months(bloom.start, '
    expect(callAt(text, text.length)).to.deep.equal({ name: 'add months', parameter: 1 })
    expect(callAt('sum(lots.price) > ', 18)).to.equal(null)
    expect(callAt('contains(name, "a,b(", ', 23)).to.deep.equal({ name: 'contains', parameter: 2 })
    expect(signatureOf('add months')).to.equal('add months(date, months, [end of month])')
  })

  it('finds the part around a place', () => {
    expect(partAt('a + b * 2', 4)?.kind).to.equal('name')
    expect(partAt('a +', 1)).to.equal(null)
  })
})

describe('an expression told with its values', () => {
  const record = new Map<string, Value>([
    ['total', number('78200')],
    ['limit', number('80000')],
    ['lots', [new Map<string, Value>([['price', number(3)]])]],
  ])
  const wording = {
    label: (name: string) => name,
    show: (value: Value) => (value === null ? 'empty' : `$${String(value)}`),
  }
  const compiled = (text: string) => {
    const found = compileExpression(text)
    if (!found.ok) throw new Error(found.problem.message)
    return found.expression.syntax
  }

  it('says why it is false', () => {
    expect(explain(compiled('total > limit'), 'total > limit', record, wording)).to.equal(
      'total $78200 is not over $80000',
    )
  })

  it('has each name replaced by what it stands for; lists stay', () => {
    const text = 'total * 2 + sum(lots.price) + total'
    expect(withValues(compiled(text), text, record, wording)).to.equal(
      '$78200 * 2 + sum(lots.price) + $78200',
    )
  })
})
