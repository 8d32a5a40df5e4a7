import { expect } from 'chai'
import { checkExpression } from '#core/expression/check.ts'
import { compileExpression } from '#core/expression/compile.ts'
import { explain } from '#core/expression/explain.ts'
import { number, type TypeName, type Value } from '#core/expression/values/value.ts'

const names = new Map<string, TypeName>([
  ['total', 'number'],
  ['crop', 'string'],
  ['land.leased', 'boolean'],
  ['bloom.start', 'date'],
])

function faults(text: string, wanted: TypeName | 'any' = 'any'): readonly string[] {
  const compiled = compileExpression(text)
  if (!compiled.ok) throw new Error(compiled.problem.message)
  return checkExpression(compiled.expression.syntax, names, wanted).map(
    ({ message, from, to }) => `${text.slice(from, to)}: ${message}`,
  )
}

describe('checking an expression against the outline', () => {
  it('finds a field that is not there, at the word', () => {
    expect(faults('totl > 3')).to.deep.equal(['totl: There is no field “totl”.'])
  })

  it('finds a text compared with a number', () => {
    expect(faults('crop > 3')).to.deep.equal([
      'crop > 3: A string is compared with a number.'.replace('string', 'text'),
    ])
  })

  it('wants a condition to be yes or no', () => {
    expect(faults('total + 1', 'boolean')).to.deep.equal([
      'total + 1: This gives a number; a yes or no is needed.',
    ])
    expect(faults('land.leased and total > 3', 'boolean')).to.deep.equal([])
  })

  it('knows the parts of a date, and names bound inside', () => {
    expect(faults('bloom.start.year = 2027')).to.deep.equal([])
    expect(faults('some c in ["a", "b"] satisfies c = crop')).to.deep.equal([])
    expect(faults('bloom.start - duration("P9D")', 'date')).to.deep.equal([])
  })

  it('finds sums that have no meaning', () => {
    expect(faults('bloom.start + total')).to.deep.equal([
      'bloom.start + total: date + number has no meaning.',
    ])
  })
})

describe('explaining a condition', () => {
  const record = new Map<string, Value>([
    ['total', number('82400')],
    ['land', new Map([['leased', false]])],
  ])
  const told = (text: string) => {
    const compiled = compileExpression(text)
    if (!compiled.ok) throw new Error(compiled.problem.message)
    return explain(compiled.expression.syntax, text, record)
  }

  it('tells the value that decided it', () => {
    expect(told('total > 80000')).to.equal('total 82400 is over 80000')
    expect(told('total > 90000')).to.equal('total 82400 is not over 90000')
  })

  it('tells of an “or” what holds and of an “and” what fails', () => {
    expect(told('total > 80000 or total > 90000')).to.equal('total 82400 is over 80000')
    expect(told('total > 80000 and total > 90000')).to.equal('total 82400 is not over 90000')
  })
})
