import { expect } from 'chai'
import fc from 'fast-check'
import { checkExpression, type NameTypes } from '#core/expression/check.ts'
import { compileExpression } from '#core/expression/compile.ts'
import { meantBy } from '#core/expression/mend.ts'
import { plainCondition } from '#core/condition/plain.ts'

const names: NameTypes = new Map([
  ['start_date', 'date'],
  ['total', 'number'],
  ['grower.name', 'string'],
  ['leased', 'boolean'],
])

describe('what was meant by a formula', () => {
  const cases: readonly (readonly [typed: string, meant: string | null])[] = [
    ['start_date + 90', 'start_date + duration("P90D")'],
    ['start_date - 14', 'start_date - duration("P14D")'],
    ['start_date + 90 days', 'start_date + duration("P90D")'],
    ['start_date + 2 weeks', 'start_date + duration("P14D")'],
    ['start_date + 3 months', 'start_date + duration("P3M")'],
    ['total * 10%', 'total * 10 / 100'],
    ['=total + 1', 'total + 1'],
    ['total == 4 && leased', 'total = 4 and leased'],
    ["grower.name = 'Alder'", 'grower.name = "Alder"'],
    ['grower.name & " of Alder & Sons"', 'grower.name + " of Alder & Sons"'],
    ['total <> 4', 'total != 4'],
    ['total + 90', null],
    ['start_date + 90 moons', null],
    ['unknown + 90 days', null],
  ]
  for (const [typed, meant] of cases)
    it(`${typed}: ${meant ?? 'is not known'}`, () => expect(meantBy(typed, names)).to.equal(meant))

  it('is without fault, whatever was typed', () => {
    const piece = fc.constantFrom(
      'start_date',
      'total',
      'leased',
      'grower.name',
      '90',
      '10%',
      '3 days',
      '&&',
      '==',
      '+',
      '-',
      '*',
      '"a & b"',
      "'x'",
      '(',
      ')',
      '=',
    )
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 8 }), (parts) => {
        const meant = meantBy(parts.join(' '), names)
        if (meant === null) return
        const compiled = compileExpression(meant)
        expect(compiled.ok && checkExpression(compiled.expression.syntax, names)).to.deep.equal([])
      }),
      { numRuns: 2000, seed: 3 },
    )
  })
})

describe('a numeral whose sign stands apart', () => {
  for (const [text, value] of [
    ['- 90', '-90'],
    ['- 90 + 1', '-89'],
    ['1 - - 90', '91'],
    ['-\n5', '-5'],
    ['-/*1*/5', '-5'],
  ] as const)
    it(`${JSON.stringify(text)} is ${value}`, () => {
      const compiled = compileExpression(text)
      expect(compiled.ok && String(compiled.expression.evaluate(new Map()))).to.equal(value)
    })
})

describe('a condition in plain words', () => {
  const plainly = {
    label: (name: string) => name.replaceAll('_', ' '),
    value: (_name: string, value: string) => value,
  }
  const cases: readonly (readonly [condition: string, words: string])[] = [
    ['payment = "in advance"', 'payment is in advance'],
    ['land_leased and total > 80000', 'land leased is yes and total is over 80000'],
    ['not(leased)', 'leased is no'],
    ['crop in ("almond", "pear", "plum")', 'crop is almond, pear or plum'],
    ['total in [20000..80000]', 'total lies between 20000 and 80000'],
    ['total > 9 and (leased or crop = "pear")', 'total is over 9 and (leased is yes or crop is pear)'],
    ['count(lots) > 1', 'count(lots) > 1'],
  ]
  for (const [condition, words] of cases)
    it(words, () => expect(plainCondition(condition, plainly)).to.equal(words))
})
