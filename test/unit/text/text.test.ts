import type { FieldType } from '#core/outline/field-kinds.ts'
import { Temporal } from 'temporal-polyfill'
import { expect } from 'chai'
import fc from 'fast-check'
import { number } from '#core/expression/values/value.ts'
import type { Field } from '#core/outline/field.ts'
import { formatValue } from '#core/text/format.ts'
import { fileName, fillPattern } from '#core/text/pattern.ts'

const field = (type: FieldType): Field => ({ name: 'f', label: 'F', type, required: true, currency: 'USD' })
const show = (
  type: FieldType,
  value: Parameters<typeof formatValue>[1],
  format: string | null = null,
  locale = 'en-US',
) => formatValue(field(type), value, format, locale)

describe('showing a value', () => {
  it('follows the display format of the merge field', () => {
    expect(show('money', number('78200'))).to.equal('$78,200.00')
    expect(show('money', number('78200'), 'amount only')).to.equal('78,200.00')
    expect(show('date', Temporal.PlainDate.from('2027-02-01'))).to.equal('February 1, 2027')
    expect(show('date', Temporal.PlainDate.from('2027-02-01'), 'ISO')).to.equal('2027-02-01')
    expect(show('percent', number(5))).to.equal('5%')
    expect(show('number', number('1234.5'), 'whole')).to.equal('1,235')
    expect(show('yes/no', true, null, 'fr-FR')).to.equal('oui')
    expect(show('text', 'Brightwater', 'capitals')).to.equal('BRIGHTWATER')
  })

  it('falls back to the default for a format it does not know, and to null for nothing', () => {
    expect(show('money', number(1), 'no such')).to.equal('$1.00')
    expect(show('money', null)).to.equal(null)
  })

  it('loses no digit of a large amount', () => {
    expect(show('money', number('90071992547409931.25'))).to.equal('$90,071,992,547,409,931.25')
  })
})

describe('filling a pattern', () => {
  it('puts values in place of names and folds what is left empty', () => {
    const values: Record<string, string> = { 'grower.name': 'Brightwater', season: '2027' }
    expect(fillPattern('Agreement, {{ grower.name }}, {{season}}', (name) => values[name] ?? null)).to.equal(
      'Agreement, Brightwater, 2027',
    )
    expect(fillPattern('A {{gone}} B', () => null)).to.equal('A B')
  })

  it('makes file names that every file system takes', () => {
    expect(fileName('a/b: c?')).to.equal('a b c')
    expect(fileName('con')).to.equal('con_')
    expect(fileName('…')).to.equal('…')
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (text) => {
        const made = fileName(text)
        expect(made).to.match(/^[^<>:"/\\|?*]{1,121}$/)
        expect(made).not.to.match(/^[. ]|[. ]$/)
      }),
    )
  })
})
