import { expect } from 'chai'
import fc from 'fast-check'
import { compileExpression } from '#core/expression/compile.ts'
import { toText } from '#core/expression/values/value.ts'

const shown = (text: string) => {
  const compiled = compileExpression(text)
  if (!compiled.ok) throw new Error(`${text}: ${compiled.problem.message}`)
  return toText(compiled.expression.evaluate(new Map()))
}

/** What each function gives, and what it gives for what it cannot take: always null, never a failure. */
const table: readonly (readonly [group: string, cases: readonly (readonly [string, string])[]])[] = [
  [
    'text',
    [
      ['upper case("larkmere")', 'LARKMERE'],
      ['lower case("LARK")', 'lark'],
      ['trim("  a b ")', 'a b'],
      ['substring("orchard", 2, 3)', 'rch'],
      ['substring("orchard", 0)', 'null'],
      ['substring("orchard", 20)', 'null'],
      ['substring("orchard", 7, 5)', 'd'],
      ['contains("orchard", "char")', 'true'],
      ['starts with("orchard", "or")', 'true'],
      ['ends with("orchard", "or")', 'false'],
      ['string length("")', '0'],
      ['string(1.50)', '1.5'],
      ['string(date("2027-01-02"))', '2027-01-02'],
      ['string join(["a", "b", null], ", ")', 'a, b'],
      ['string join(["a", "b"], ", ", "<", ">")', '<a, b>'],
      ['string join([], ", ", "<", ">")', '<>'],
      ['string join(["a"], ", ", 1, ">")', 'null'],
      ['upper case(3)', 'null'],
      ['contains("a", 1)', 'null'],
      ['"a" + " " + "b"', 'a b'],
    ],
  ],
  [
    'numbers',
    [
      ['number("1234.50")', '1234.5'],
      ['number("12 bees")', 'null'],
      ['abs(-3)', '3'],
      ['floor(-1.1)', '-2'],
      ['floor(1.56, 1)', '1.5'],
      ['ceiling(1.1)', '2'],
      ['round up(1.121, 2)', '1.13'],
      ['round down(-1.129, 2)', '-1.12'],
      ['round half down(1.125, 2)', '1.12'],
      ['modulo(10, 3)', '1'],
      ['modulo(10, 0)', 'null'],
      ['2 ** 10', '1024'],
      ['-3 + 5', '2'],
      ['min([3, 1, 2])', '1'],
      ['max(3, 1, 2)', '3'],
      ['mean(1, 2)', '1.5'],
      ['sum(["a"])', 'null'],
      ['max([1, "a"])', 'null'],
    ],
  ],
  [
    'dates and durations',
    [
      ['date("2027-02-29")', 'null'],
      ['date("2028-02-29").day', '29'],
      ['date("27-1-1")', 'null'],
      ['date(2027, 4, 31)', 'null'],
      ['date(date and time("2027-01-01T10:00:00"))', '2027-01-01'],
      ['date and time(date("2027-01-01"), time("10:30:00"))', '2027-01-01T10:30:00'],
      ['time("25:00:00")', 'null'],
      ['duration("P1Y2M")', 'P1Y2M'],
      ['duration("PT36H")', 'P1DT12H'],
      ['duration("P")', 'null'],
      ['duration("P1D") * 3', 'P3D'],
      ['duration("P2D") / duration("P1D")', '2'],
      ['duration("P1M") + duration("P11M")', 'P1Y'],
      ['date("2027-03-31") - duration("P1M")', '2027-02-28'],
      ['date("2027-01-01") < date("2027-01-02")', 'true'],
      ['date("2027-01-01") < "2027-01-02"', 'null'],
      ['@"2027-01-01" in [@"2027-01-01"..@"2027-12-31"]', 'true'],
      ['last day of month(date("2028-02-03"))', '2028-02-29'],
      ['add months(date("2027-01-31"), 1.5)', 'null'],
      ['day of week(date("2027-03-28"))', 'Sunday'],
    ],
  ],
  [
    'lists and contexts',
    [
      ['count([1, null, 2])', '3'],
      ['list contains([1, null], null)', 'true'],
      ['append([1], 2, 3)', '[1, 2, 3]'],
      ['concatenate([1], [2, 3])', '[1, 2, 3]'],
      ['reverse([1, 2])', '[2, 1]'],
      ['distinct values([1, 1.0, 2])', '[1, 2]'],
      ['flatten([1, [2, [3]]])', '[1, 2, 3]'],
      ['get value({grade: "strong"}, "grade")', 'strong'],
      ['{a: 2, b: a * 3}.b', '6'],
      ['all([true, null, false])', 'false'],
      ['any([false, null])', 'null'],
      ['[1, 2, 3][2]', '2'],
      ['[1, 2, 3][7]', 'null'],
      ['[[1, 2], [3]][1][2]', '2'],
      ['[1..3].end', '3'],
      ['1 instance of number', 'true'],
      ['"a" instance of number', 'false'],
      ['is defined(null)', 'false'],
    ],
  ],
]

for (const [group, cases] of table)
  describe(`functions on ${group}`, () => {
    for (const [text, result] of cases)
      it(`${text} gives ${result || 'empty text'}`, () => void expect(shown(text)).to.equal(result))
  })

describe('laws of the arithmetic', () => {
  const amount = fc.integer({ min: -1e9, max: 1e9 }).map((cents) => `(${(cents / 100).toFixed(2)})`)

  it('a sum does not depend on its order, as it does in binary numbers', () => {
    fc.assert(
      fc.property(
        amount,
        amount,
        amount,
        (a, b, c) => shown(`${a} + ${b} + ${c}`) === shown(`${c} + ${b} + ${a}`),
      ),
    )
  })

  it('rounding half up never moves by more than half a unit', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -1e7, max: 1e7 }),
        (n) => shown(`abs(round half up(${n} / 1000, 2) - ${n} / 1000) <= 0.005`) === 'true',
      ),
    )
  })

  it('going months forth and back never ends later than the start', () => {
    const date = fc
      .date({ min: new Date('1950-01-01'), max: new Date('2100-01-01'), noInvalidDate: true })
      .map((d) => d.toISOString().slice(0, 10))
    fc.assert(
      fc.property(
        date,
        fc.integer({ min: 0, max: 60 }),
        (from, months) =>
          shown(`add months(add months(date("${from}"), ${months}), -${months}) <= date("${from}")`) ===
          'true',
      ),
    )
  })

  it('business days counted forth and back meet again on a working day', () => {
    const date = fc
      .date({ min: new Date('1990-01-01'), max: new Date('2090-01-01'), noInvalidDate: true })
      .map((d) => d.toISOString().slice(0, 10))
    fc.assert(
      fc.property(date, fc.integer({ min: 1, max: 90 }), (from, days) => {
        const start = shown(`add business days(date("${from}"), 1)`)
        return shown(`add business days(add business days(date("${start}"), ${days}), -${days})`) === start
      }),
    )
  })

  it('a condition and its negation are never both true', () => {
    const condition = fc.constantFrom(
      '1 < null',
      'null',
      'true',
      'false',
      '1 = 1',
      '"a" < 1',
      'null and true',
    )
    fc.assert(
      fc.property(condition, condition, (a, b) => shown(`(${a} or ${b}) and not(${a} or ${b})`) !== 'true'),
    )
  })
})
