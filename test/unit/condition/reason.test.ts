import { expect } from 'chai'
import fc from 'fast-check'
import { compileExpression } from '#core/expression/compile.ts'
import { together } from '#core/condition/reason.ts'
import { number, type Value } from '#core/expression/values/value.ts'

const syntax = (text: string) => {
  const compiled = compileExpression(text)
  if (!compiled.ok) throw new Error(`${text}: ${compiled.problem.message}`)
  return compiled.expression.syntax
}

const domains = new Map([['crop', ['almond', 'apple', 'pear']]])
const possible = (holding: string[], failing: string[] = []) =>
  together(holding.map(syntax), failing.map(syntax), domains)

describe('reasoning over conditions', () => {
  for (const [why, holding, failing] of [
    ['a number cannot be over and under at once', ['colonies > 400', 'colonies < 300'], []],
    ['nothing lies between the ends of an open span of one point', ['colonies > 4 and colonies < 4'], []],
    ['a text is one thing only', ['state = "Oregon" and state = "Idaho"'], []],
    ['a choice has only its choices', ['crop = "plum"'], []],
    ['every choice left out leaves none', ['crop != "almond"', 'crop != "apple"', 'crop != "pear"'], []],
    ['a yes is no no', ['organic and not(organic)'], []],
    [
      'a date cannot come before an earlier one',
      ['day < date("2027-01-01")', 'day > date("2027-03-01")'],
      [],
    ],
    ['two fields compare one way', ['a > b', 'b > a'], []],
    ['a span holds its own inside', ['colonies in [10..20]'], ['colonies >= 5']],
    ['one of several is one of more', ['crop in ("almond", "pear")'], ['crop != "apple"']],
    ['empty is not filled', ['county = null', 'county != null'], []],
  ] as const)
    it(why, () => {
      expect(possible([...holding], [...failing]).possible).to.equal(false)
    })

  it('gives an example of what can be', () => {
    const found = possible(['colonies >= 400', 'organic'], ['crop = "almond"'])
    expect(found).to.deep.equal({
      possible: true,
      example: [
        { name: 'colonies', says: 'at least 400' },
        { name: 'organic', says: 'yes' },
        { name: 'crop', says: 'apple' },
      ],
    })
  })

  it('says nothing is impossible where it does not understand', () => {
    expect(possible(['string length(name) > 3 and string length(name) < 2']).possible).to.equal(true)
  })

  it('gives up rather than run away', () => {
    const many = Array.from({ length: 14 }, (_, i) => `(a${i} or b${i})`).join(' and ')
    expect(possible([many]).possible).to.equal(true)
  })

  const atom = fc.oneof(
    fc
      .tuple(
        fc.constantFrom('x', 'y'),
        fc.constantFrom('<', '<=', '>', '>=', '=', '!='),
        fc.integer({ min: 0, max: 4 }),
      )
      .map(([name, sign, n]) => `${name} ${sign} ${n}`),
    fc.constantFrom('p', 'not(p)', 'x in [1..3]', 'y in (0, 2)', 'x > y', 'x <= y'),
  )
  const formula = fc.letrec((tie) => ({
    any: fc.oneof(
      { depthSize: 'small' },
      atom,
      fc
        .tuple(tie('any'), fc.constantFrom('and', 'or'), tie('any'))
        .map(([a, sign, b]) => `(${a as string} ${sign} ${b as string})`),
    ),
  })).any as fc.Arbitrary<string>

  it('never calls impossible what some record does', () => {
    fc.assert(
      fc.property(
        formula,
        formula,
        fc.integer({ min: 0, max: 4 }),
        fc.integer({ min: 0, max: 4 }),
        fc.boolean(),
        (holds, fails, x, y, p) => {
          const record = new Map<string, Value>([
            ['x', number(x)],
            ['y', number(y)],
            ['p', p],
          ])
          const value = (text: string) => {
            const compiled = compileExpression(text)
            return compiled.ok && compiled.expression.evaluate(record)
          }
          if (value(holds) === true && value(fails) === false)
            expect(possible([holds], [fails]).possible).to.equal(true)
        },
      ),
      { numRuns: 600 },
    )
  })
})
