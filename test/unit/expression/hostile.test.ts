import { expect } from 'chai'
import fc from 'fast-check'
import { checkExpression, type NameTypes } from '#core/expression/check.ts'
import { BudgetSpent, inPieces, withBudget } from '#core/expression/values/budget.ts'
import { compileExpression } from '#core/expression/compile.ts'
import { explain } from '#core/expression/explain.ts'
import { builtIns } from '#core/expression/functions.ts'
import { number, toText, typeOf, type Value } from '#core/expression/values/value.ts'
import { parseDate } from '#core/calendar/days.ts'

const record = new Map<string, Value>([
  ['colonies', number(120)],
  ['grower', 'Brightwater Orchard'],
  ['leased', true],
  ['delivery', parseDate('2027-03-28')],
  ['nothing', null],
  [
    'lines',
    [
      new Map<string, Value>([
        ['price', number('195.00')],
        ['quantity', number(40)],
      ]),
      new Map<string, Value>([
        ['price', number('212.50')],
        ['quantity', null],
      ]),
    ],
  ],
])
const names: NameTypes = new Map([
  ['colonies', 'number'],
  ['grower', 'string'],
  ['leased', 'boolean'],
  ['delivery', 'date'],
  ['nothing', 'any'],
  ['lines', 'list'],
  ['lines.price', 'list'],
  ['lines.quantity', 'list'],
])

const leaf = fc.oneof(
  fc.constantFrom('colonies', 'grower', 'leased', 'delivery', 'nothing', 'lines', 'lines.price'),
  fc.integer({ min: -400, max: 400 }).map(String),
  fc.constantFrom('0', '1000', '99999999999999999999999999999999999999', '0.1', '-0.5'),
  fc.constantFrom('"P1D"', '"P999999999D"', '"-P13M"', '"2027-02-29"', '"2027-03-28"', '"[a-"', '""', '"🐝"'),
  fc.constantFrom('true', 'false', 'null', '[]', '[1, 2, 2, null]', '["a", "B"]', '{ a: 1 }', '[1..5]'),
  fc.constantFrom(
    'date("2027-03-28")',
    'duration("P999999999D")',
    'duration("P900000Y")',
    'time("23:59:59")',
  ),
)

const anyExpression = fc.letrec<{ whole: string }>((tie) => ({
  whole: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    leaf,
    fc
      .tuple(tie('whole'), fc.constantFrom('+', '-', '*', '/', '**', '=', '!=', '<', '>='), tie('whole'))
      .map(([left, operator, right]) => `(${left}) ${operator} (${right})`),
    fc
      .tuple(tie('whole'), fc.constantFrom('and', 'or'), tie('whole'))
      .map(([left, operator, right]) => `(${left}) ${operator} (${right})`),
    fc
      .tuple(tie('whole'), tie('whole'), tie('whole'))
      .map(([a, b, c]) => `if (${a}) then (${b}) else (${c})`),
    fc.tuple(tie('whole'), tie('whole')).map(([a, b]) => `(${a})[(${b})]`),
    fc.tuple(tie('whole'), tie('whole')).map(([a, b]) => `for x in (${a}) return (${b})`),
    fc.tuple(tie('whole'), tie('whole')).map(([a, b]) => `some x in (${a}) satisfies (${b})`),
    fc.tuple(tie('whole'), tie('whole'), tie('whole')).map(([a, b, c]) => `(${a}) in [(${b})..(${c})]`),
    fc
      .tuple(fc.constantFrom(...builtIns.keys()), fc.array(tie('whole'), { maxLength: 4 }))
      .map(([name, args]) => {
        const { parameters, optional = 0, variadic } = builtIns.get(name)!
        const least = parameters.length - optional
        const filled = [...args, ...Array.from({ length: least }, () => 'colonies')]
        return `${name}(${filled.slice(0, variadic ? Math.max(1, args.length) : Math.max(least, Math.min(args.length, parameters.length))).join(', ')})`
      }),
  ),
})).whole

describe('expressions that somebody makes up', () => {
  it('evaluate to a value or to null, never to a failure, and are explained likewise', function () {
    this.timeout(120_000)
    fc.assert(
      fc.property(anyExpression, (text) => {
        const compiled = compileExpression(text)
        if (!compiled.ok) return
        const value = compiled.expression.evaluate(record)
        expect(toText(value)).to.be.a('string')
        expect(toText(compiled.expression.evaluate(record))).to.equal(toText(value))
        if (typeof value === 'boolean')
          expect(explain(compiled.expression.syntax, text, record)).to.be.a('string')
      }),
      { numRuns: 1500 },
    )
  })

  it('give what their type says, wherever the checker found nothing wrong with them', function () {
    this.timeout(120_000)
    const wanted = ['number', 'string', 'boolean', 'date'] as const
    fc.assert(
      fc.property(anyExpression, fc.constantFrom(...wanted), (text, type) => {
        const compiled = compileExpression(text)
        if (!compiled.ok || checkExpression(compiled.expression.syntax, names, type).length) return
        const value = compiled.expression.evaluate(record)
        // Null is a value of every type; what the checker cannot know is left to the run.
        fc.pre(value !== null)
        expect(typeOf(value), `${text} as ${type}`).to.be.oneOf([
          type,
          ...(/any|nothing|\[|for|get value|min|max|if/.test(text) ? [typeOf(value)] : []),
        ])
      }),
      { numRuns: 1500 },
    )
  })

  it('end, however often they loop inside loops', () => {
    for (const text of [
      'for a in 1..100000, b in 1..100000, c in 1..100000 return a',
      'some a in 1..100000, b in 1..100000 satisfies a + b = 0',
      '(for a in 1..100000 return a)[count((for b in 1..100000 return b)[item > 5]) > 1]',
    ]) {
      const compiled = compileExpression(text)
      if (!compiled.ok) throw new Error(compiled.problem.message)
      expect(compiled.expression.evaluate(record), text).to.equal(null)
    }
    const long = compileExpression('count(distinct values(for a in 1..100000 return modulo(a, 50000)))')
    expect(long.ok && toText(long.expression.evaluate(record))).to.equal('50000')
  })

  it('end, whatever grows in them without a loop', () => {
    const doubled = (times: number, inner: string, wrap: (of: string) => string): string =>
      times === 0 ? inner : doubled(times - 1, wrap(inner), wrap)
    for (const text of [
      // Texts that double, lists that hold one list many times, patterns that unfold.
      `string length(${doubled(40, 'grower', (of) => `replace(${of}, "(.)", "$1$1")`)})`,
      `${doubled(8, 'grower', (of) => `string join([${of}, ${of}])`)}`,
      `{a: [1,2,3,4,5,6,7,8], ${Array.from('bcdefghijklmnopqrstuvwxyz', (name, i) => `${name}: [${'abcdefghijklmnopqrstuvwxyz'[i]}, ${'abcdefghijklmnopqrstuvwxyz'[i]}]`).join(', ')}, end: count(flatten(z))}.end`,
      `{a: [1,2,3,4,5,6,7,8], ${Array.from('bcdefghijklmnopqrstuvwxyz', (name, i) => `${name}: [${'abcdefghijklmnopqrstuvwxyz'[i]}, ${'abcdefghijklmnopqrstuvwxyz'[i]}]`).join(', ')}, end: string length(string(z))}.end`,
      `{a: [1,2,3,4,5,6,7,8], ${Array.from('bcdefghijklmnopqrstuvwxyz', (name, i) => `${name}: [${'abcdefghijklmnopqrstuvwxyz'[i]}, ${'abcdefghijklmnopqrstuvwxyz'[i]}]`).join(', ')}, end: z = y[1]}.end`,
      'count(for i in 1..100000 return replace(grower, "((o|r){30}){30}|.", "x"))',
      'sort(for i in 1..100000 return 100000 - i, function(a, b) count(for k in 1..1000 return k) > 0 and a < b)',
      'for i in 1..100000 return 2 ** 0.5',
    ]) {
      const compiled = compileExpression(text)
      if (!compiled.ok) continue
      const started = process.cpuUsage().user
      const value = compiled.expression.evaluate(record)
      expect(
        value === null || typeof value !== 'object' || !Array.isArray(value),
        text.slice(0, 80),
      ).to.equal(true)
      // Not a measurement: without an end it would be minutes, or the end of the process.
      expect((process.cpuUsage().user - started) / 1e6, text.slice(0, 80)).to.be.below(20)
    }
  })

  it('share the budget of the work they are part of', () => {
    const loop = compileExpression('count(for a in 1..30000 return a)')
    if (!loop.ok) throw new Error(loop.problem.message)
    const often = (times: number) => () => {
      for (let i = 0; i < times; i++) loop.expression.evaluate(record)
      return times
    }
    expect(withBudget(1_000_000, often(5))).to.equal(5)
    expect(() => withBudget(1_000_000, often(50))).to.throw(BudgetSpent)
    // One that takes too long by itself has no value, and takes its part of what there is.
    const endless = compileExpression('some a in 1..100000, b in 1..100000 satisfies a + b = 0')
    if (!endless.ok) throw new Error(endless.problem.message)
    expect(withBudget(1_000_000, () => endless.expression.evaluate(record))).to.equal(null)
    expect(() =>
      withBudget(1_000_000, () => [1, 2, 3].map(() => endless.expression.evaluate(record))),
    ).to.throw(BudgetSpent)
    const piece = inPieces(300_000, 100_000)
    for (let i = 0; i < 4; i++) piece(often(2))
    expect(() => piece(often(6)), 'more than a piece has').to.throw(BudgetSpent)
    expect(() => Array.from({ length: 9 }, () => piece(often(2))), 'more than all have').to.throw(BudgetSpent)
    expect(withBudget(10, () => 'what comes after has its own')).to.be.a('string')
    expect(toText(loop.expression.evaluate(record))).to.equal('30000')
  })

  it('give the results so far to a loop that asks for them', () => {
    const compiled = compileExpression('for i in 1..5 return if i = 1 then 1 else i * partial[-1]')
    expect(compiled.ok && toText(compiled.expression.evaluate(record))).to.equal('[1, 2, 6, 24, 120]')
    const nested = compileExpression('for a in 1..2 return for b in 1..2 return count(partial)')
    expect(nested.ok && toText(nested.expression.evaluate(record))).to.equal('[[0, 1], [0, 1]]')
  })

  it('keep to numbers of 34 digits and exponents up to 6144, as decimal128 does', () => {
    const shown = (text: string) => {
      const compiled = compileExpression(text)
      return compiled.ok ? compiled.expression.evaluate(record) : undefined
    }
    expect(shown('10 ** 7000')).to.equal(null)
    expect(shown('exp(100000)')).to.equal(null)
    expect(shown('product([10 ** 6000, 10 ** 6000])')).to.equal(null)
    expect(shown('10 ** -7000')!.toString()).to.equal('0')
    expect(shown('10 ** 6000 / 10 ** 5999')!.toString()).to.equal('10')
    expect(toText(shown('modulo(99999999999999999999999999999999999999, 0.1)')!)).to.equal('0')
  })

  it('past the last date there is have no value', () => {
    for (const text of [
      'date("2027-01-01") + duration("P999999999D")',
      'date("9999-12-31") + duration("P900000Y")',
      'duration("P1D") * 10 ** 30',
      'duration("P1Y") * 10 ** 30',
      'date and time("2027-01-01T00:00:00") + duration("P99999999999D")',
    ]) {
      const compiled = compileExpression(text)
      expect(compiled.ok && compiled.expression.evaluate(record), text).to.equal(null)
    }
  })

  it('deeper than two hundred levels are refused in words, at the right place', () => {
    const deep = `${'('.repeat(400)}1${')'.repeat(400)}`
    const compiled = compileExpression(deep)
    expect(compiled.ok).to.equal(false)
    if (!compiled.ok) {
      expect(compiled.problem.message).to.match(/deep/)
      expect(compiled.problem.from).to.be.within(0, deep.length)
    }
  })
})
