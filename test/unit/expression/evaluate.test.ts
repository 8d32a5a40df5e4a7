import { expect } from 'chai'
import { compileExpression } from '#core/expression/compile.ts'
import { number, toText, type Value } from '#core/expression/values/value.ts'

const record = new Map<string, Value>([
  ['total', number('82400.00')],
  ['land', new Map<string, Value>([['leased', true]])],
  [
    'lines',
    [
      new Map<string, Value>([
        ['grade', 'strong'],
        ['colonies', number(40)],
      ]),
      new Map<string, Value>([
        ['grade', 'fair'],
        ['colonies', number(24)],
      ]),
    ],
  ],
  ['nothing', null],
])

function evaluate(text: string): Value {
  const compiled = compileExpression(text)
  if (!compiled.ok) throw new Error(`${text}: ${compiled.problem.message}`)
  return compiled.expression.evaluate(record)
}

const shown = (text: string) => toText(evaluate(text))

function problem(text: string) {
  const compiled = compileExpression(text)
  if (compiled.ok) throw new Error(`${text} was expected to be faulty`)
  return compiled.problem
}

describe('evaluating an expression', () => {
  it('computes in decimals, so that ten cents and twenty make thirty', () => {
    expect(evaluate('0.1 + 0.2 = 0.3')).to.equal(true)
    expect(shown('1 / 3 * 3')).to.equal('0.9999999999999999999999999999999999')
  })

  it('multiplies before it adds, and reads a chain of minus signs from the left', () => {
    expect(shown('2 + 3 * 4')).to.equal('14')
    expect(shown('10 - 3 - 2')).to.equal('5')
  })

  it('treats an unknown operand as unknown, not as false', () => {
    expect(evaluate('nothing > 3')).to.equal(null)
    expect(evaluate('nothing > 3 and false')).to.equal(false)
    expect(evaluate('nothing > 3 or true')).to.equal(true)
    expect(evaluate('nothing > 3 or false')).to.equal(null)
    expect(evaluate('nothing = null')).to.equal(true)
  })

  it('takes the otherwise of an if whose condition is unknown', () => {
    expect(evaluate('if nothing > 3 then "a" else "b"')).to.equal('b')
  })

  it('reads dotted fields, and the members of all items of a list', () => {
    expect(evaluate('land.leased')).to.equal(true)
    expect(shown('lines.colonies')).to.equal('[40, 24]')
    expect(shown('sum(lines.colonies)')).to.equal('64')
    expect(shown('lines[colonies > 30].grade')).to.equal('["strong"]')
    expect(shown('lines[-1].grade')).to.equal('fair')
  })

  it('adds months to a date and keeps to the month’s end', () => {
    expect(shown('date("2027-01-31") + duration("P1M")')).to.equal('2027-02-28')
    expect(shown('add months(date("2028-01-31"), 1)')).to.equal('2028-02-29')
    expect(shown('date("2027-03-01") - date("2027-02-01")')).to.equal('P28D')
  })

  it('counts business days over weekends and holidays', () => {
    expect(shown('add business days(date("2027-04-16"), 5)')).to.equal('2027-04-23')
    expect(shown('add business days(date("2027-04-16"), 1, [date("2027-04-19")])')).to.equal('2027-04-20')
    expect(shown('add business days(date("2027-04-19"), -1)')).to.equal('2027-04-16')
  })

  it('rounds halves as told', () => {
    expect(shown('round half up(2.345, 2)')).to.equal('2.35')
    expect(shown('round half up(-2.345, 2)')).to.equal('-2.35')
    expect(shown('decimal(2.345, 2)')).to.equal('2.34')
    expect(shown('round half up(1250, -2)')).to.equal('1300')
  })

  it('tests membership in lists, ranges and comparisons', () => {
    expect(evaluate('total in [80000..90000]')).to.equal(true)
    expect(evaluate('total in (1, 2, > 80000)')).to.equal(true)
    expect(evaluate('5 in (5..9]')).to.equal(false)
    expect(evaluate('"cherry" in ("almond", "cherry")')).to.equal(true)
  })

  it('quantifies and iterates', () => {
    expect(evaluate('some line in lines satisfies line.colonies > 30')).to.equal(true)
    expect(evaluate('every line in lines satisfies line.colonies > 30')).to.equal(false)
    expect(shown('for i in 1..3 return i * i')).to.equal('[1, 4, 9]')
  })

  it('gives nothing for a division by zero or operands that do not go together', () => {
    expect(evaluate('1 / 0')).to.equal(null)
    expect(evaluate('"a" + 1')).to.equal(null)
  })

  it('names the fields it reads, but not its own local names', () => {
    const compiled = compileExpression('land.leased and some line in lines satisfies line.colonies > total')
    expect(compiled.ok && compiled.expression.reads).to.deep.equal(['land.leased', 'lines', 'total'])
  })
})

describe('a faulty expression', () => {
  it('says where it stops too early', () => {
    expect(problem('total >')).to.include({ from: 7, message: 'The expression stops too early.' })
  })

  it('points at a function that is not there', () => {
    expect(problem('1 + rond(total)')).to.include({ from: 4, to: 8, message: 'There is no function “rond”.' })
  })

  it('tells the parameters of a function called wrongly', () => {
    expect(problem('contains("a")').message).to.contain('string, match')
  })

  it('is refused when nested past the limit, without harm', () => {
    expect(problem(`${'('.repeat(5000)}1${')'.repeat(5000)}`).message).to.match(/levels deep|characters/)
    expect(problem(`${'('.repeat(300)}1${')'.repeat(300)}`).message).to.match(/levels deep/)
  })
})
