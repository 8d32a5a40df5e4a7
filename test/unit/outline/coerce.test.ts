import type { FieldType } from '#core/outline/field-kinds.ts'
import { expect } from 'chai'
import fc from 'fast-check'
import { coerce, isEmail, readNumber } from '#core/outline/coerce.ts'
import { type Field, fieldNameProblem } from '#core/outline/field.ts'
import type { Cell, DateOrder } from '#core/outline/cell.ts'

const field = (type: FieldType): Field => ({
  name: 'f',
  label: 'F',
  type,
  required: true,
  choices: ['cherry', 'pear'],
})
const read = (type: FieldType, cell: Cell, order: DateOrder | null = null) => {
  const found = coerce(field(type), cell, order)
  return found.ok ? found.value : found.problem
}

describe('reading a cell as an amount', () => {
  it('takes currency signs, codes, groups and brackets as people write them', () => {
    expect(read('money', '$1,234.50')).to.equal('1234.5')
    expect(read('money', 'USD 1 234.50')).to.equal('1234.5')
    expect(read('money', '1.234,50 €')).to.equal('1234.5')
    expect(read('money', '(12.00)')).to.equal('-12')
    expect(read('number', '1,040')).to.equal('1040')
    expect(read('number', 212.5)).to.equal('212.5')
  })

  it('refuses what is no amount, in words that show it', () => {
    expect(read('money', 'as last year')).to.equal('“as last year” is not a number.')
    expect(read('money', 'USD 19O')).to.equal('“USD 19O” is not a number.')
    expect(read('money', '5 %')).to.contain('percentage')
    expect(read('money', { date: '2027-01-01' })).to.contain('is a date')
    expect(read('money', { error: '#REF!' })).to.contain('#REF!')
  })

  it('reads back every number it could have been shown as', () => {
    fc.assert(
      fc.property(fc.integer({ min: -1e12, max: 1e12 }), (cents) => {
        const shown = new Intl.NumberFormat('en-US', {
          style: 'currency',
          currency: 'USD',
          currencySign: 'accounting',
        }).format(cents / 100)
        expect(Number(readNumber(shown))).to.equal(cents / 100)
      }),
    )
  })
})

describe('reading a cell as a date', () => {
  it('takes a date cell, ISO text and month names', () => {
    expect(read('date', { date: '2027-03-28' })).to.equal('2027-03-28')
    expect(read('date', '2027-3-28')).to.equal('2027-03-28')
    expect(read('date', 'April 11, 2027')).to.equal('2027-04-11')
    expect(read('date', '11 Apr 2027')).to.equal('2027-04-11')
  })

  it('asks rather than guesses which of two small numbers is the month', () => {
    expect(read('date', '3/4/2027')).to.contain('say which comes first')
    expect(read('date', '3/4/2027', 'month first')).to.equal('2027-03-04')
    expect(read('date', '3/4/2027', 'day first')).to.equal('2027-04-03')
    expect(read('date', '28/3/2027', 'month first')).to.equal('2027-03-28')
  })

  it('refuses days that no calendar has, and numbers that lost their format', () => {
    expect(read('date', '2027-04-31')).to.contain('no day of the calendar')
    expect(read('date', '2/29/2027')).to.contain('no day of the calendar')
    expect(read('date', 46114)).to.contain('lost its date format')
    expect(read('date', 'TBD')).to.equal('“TBD” is not a date.')
  })
})

describe('reading other cells', () => {
  it('takes percent in points, whichever way it is written', () => {
    expect([read('percent', 5), read('percent', '5 %'), read('percent', { fraction: 0.05 })]).to.deep.equal([
      '5',
      '5',
      '5',
    ])
  })

  it('knows yes and no, and says so when it is neither', () => {
    expect([read('yes/no', 'Yes'), read('yes/no', 'no'), read('yes/no', true)]).to.deep.equal([
      true,
      false,
      true,
    ])
    expect(read('yes/no', 'partly')).to.equal('“partly” is neither yes nor no.')
  })

  it('matches a choice without regard to capitals, and trims', () => {
    expect(read('choice', ' Cherry ')).to.equal('cherry')
    expect(read('choice', 'quince')).to.contain('none of')
    expect(read('text', '  Upperdale  ')).to.equal('Upperdale')
    expect(read('text', '   ')).to.equal(null)
  })

  it('tells mail addresses from what only looks like one', () => {
    for (const good of ['maud.ellery@brightwater.example', 'a+b@c.d.example', 'josé@mañana.example'])
      expect(isEmail(good), good).to.equal(true)
    for (const bad of [
      'n/a',
      'orchard@@x.example',
      'a b@c.example',
      'a@b',
      '@b.example',
      'a..b@c.example',
      'x'.repeat(65) + '@c.example',
    ])
      expect(isEmail(bad), bad).to.equal(false)
  })
})

describe('naming a field', () => {
  it('takes letters of any alphabet and refuses words of the expression language', () => {
    expect(fieldNameProblem('grower.name')).to.equal(null)
    expect(fieldNameProblem('поле.имя')).to.equal(null)
    expect(fieldNameProblem('grower.if')).to.contain('word of the expression language')
    expect(fieldNameProblem('1st')).to.contain('no field name')
    expect(fieldNameProblem('a..b')).to.contain('no field name')
  })
})
