import { expect } from 'chai'
import fc from 'fast-check'
import { LANGUAGES } from '#core/languages/language.ts'
import { readTyped, shownIn } from '#core/text/typed-number.ts'

const read = (text: string, language: 'en' | 'es' | 'fr') => {
  const found = readTyped(text, language)
  return found.ok ? found.value : found.readings
}

describe('a number as it is typed', () => {
  it('is read by the language of the page', () => {
    for (const language of ['es', 'fr'] as const) {
      expect(read('12,5', language)).to.equal('12.5')
      expect(read('12.5', language)).to.equal('12.5')
      expect(read('1.234.567,89', language)).to.equal('1234567.89')
      expect(read('1 250,5', language)).to.equal('1250.5')
      expect(read('1\u202f250', language)).to.equal('1250')
      expect(read('0,500', language)).to.equal('0.500')
      expect(read('12,500', language)).to.equal('12.500')
    }
    expect(read('12,500', 'en')).to.equal('12500')
    expect(read('1.500', 'en')).to.equal('1.500')
    expect(read('12,5', 'en')).to.equal(null)
    expect(read('1,234,567.89', 'en')).to.equal('1234567.89')
    expect(read('−4', 'en')).to.equal('-4')
    expect(read('.5', 'en')).to.equal('0.5')
  })

  it('is refused where it has two readings, with both', () => {
    for (const language of ['es', 'fr'] as const)
      for (const text of ['1.500', '12.500'])
        expect(read(text, language), `${language} ${text}`).to.deep.equal([text.replace('.', ''), text])
  })

  it('is none where it is none', () => {
    for (const language of LANGUAGES)
      for (const text of [
        '',
        'twelve',
        '1,2,3',
        '1.2.3',
        '12.34.567',
        '1,234.567,8',
        '5 colonies',
        '1e5',
        '9'.repeat(61),
      ])
        expect(read(text, language), text).to.equal(null)
  })

  it('as it stands in a document of any language is read again as it was, or refused for two readings', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -999_999, max: 999_999 }),
        fc.string({ unit: fc.constantFrom(...'0123456789'), maxLength: 6 }),
        fc.constantFrom(...LANGUAGES),
        (whole, fraction, language) => {
          const value = fraction ? `${whole}.${fraction}` : String(whole)
          const found = readTyped(shownIn(value, language), language)
          if (found.ok) expect(found.value).to.equal(value)
          else expect(found.readings?.[1]).to.equal(value)
        },
      ),
    )
  })
})
