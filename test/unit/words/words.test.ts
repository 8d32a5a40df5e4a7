import { expect } from 'chai'
import { Decimal } from 'decimal.js'
import { joined, nameParts } from '#core/words/join.ts'
import { amountInWords, numberInWords } from '#core/words/words.ts'

const words = (n: string, language = 'en') => numberInWords(new Decimal(n), language)
const amount = (n: string, currency: string, language = 'en') =>
  amountInWords(new Decimal(n), currency, language)

describe('numbers in words', () => {
  it('are said in the language, another one in English', () => {
    expect(words('78200')).to.equal('seventy-eight thousand two hundred')
    expect(words('21', 'fr-CA')).to.equal('vingt et un')
    expect(words('21000', 'es')).to.equal('veintiún mil')
    expect(words('1001', 'es')).to.equal('mil uno')
    expect(words('5', 'pl')).to.equal('five')
  })

  it('go by the long scale in Spanish, where a thousand million has no word of its own', () => {
    expect(words('1000000', 'es')).to.equal('un millón')
    expect(words('1000000000', 'es')).to.equal('mil millones')
    expect(words('2500000000', 'es')).to.equal('dos mil quinientos millones')
    expect(words('1001000001', 'es')).to.equal('mil un millones uno')
    expect(words('21000000', 'es')).to.equal('veintiún millones')
    expect(words('1000000000000', 'es')).to.equal('un billón')
    expect(words('2000001000000', 'es')).to.equal('dos billones un millón')
  })

  it('have their sign, and are nothing for fractions and beyond a thousand million million', () => {
    expect(words('-3')).to.equal('minus three')
    expect(words('1.5')).to.equal(null)
    expect(words('1e15')).to.equal(null)
  })
})

describe('amounts in words', () => {
  it('say the smaller unit as a fraction, as on a cheque', () => {
    expect(amount('78200.5', 'USD')).to.equal('seventy-eight thousand two hundred and 50/100 US dollars')
    expect(amount('1', 'USD')).to.equal('one and 00/100 US dollar')
    expect(amount('12.3456', 'KWD')).to.equal('twelve and 346/1000 Kuwaiti dinars')
    expect(amount('-0.5', 'USD')).to.equal('minus zero and 50/100 US dollars')
  })

  it('of a currency without a smaller unit have no fraction', () => {
    expect(amount('1234.5', 'JPY')).to.equal('one thousand two hundred thirty-five Japanese yen')
  })

  it('agree with the currency, and ask for “de” behind a million', () => {
    expect(amount('1', 'JPY', 'es')).to.equal('un yen japonés')
    expect(amount('21', 'EUR', 'es')).to.equal('veintiún con 00/100 euros')
    expect(amount('200', 'GBP', 'es')).to.equal('doscientas con 00/100 libras esterlinas')
    expect(amount('1', 'GBP', 'es')).to.equal('una con 00/100 libra esterlina')
    expect(amount('521', 'GBP', 'es')).to.equal('quinientas veintiuna con 00/100 libras esterlinas')
    expect(amount('1000000', 'JPY', 'es')).to.equal('un millón de yenes japoneses')
    expect(amount('1000000', 'JPY', 'fr')).to.equal('un million de yens japonais')
    expect(amount('1200000', 'JPY', 'fr')).to.equal('un million deux cent mille yens japonais')
  })

  it('are nothing for a code that is none', () => {
    expect(amount('1', 'dollars')).to.equal(null)
  })
})

describe('lists in a sentence', () => {
  it('are joined as the language joins them', () => {
    expect(joined(['almond', 'apple', 'pear'], 'conjunction', 'en-US')).to.equal('almond, apple and pear')
    expect(joined(['almond', 'apple'], 'disjunction', 'fr')).to.equal('almond ou apple')
    expect(joined(['manzana', 'iris'], 'conjunction', 'es')).to.equal('manzana e iris')
    expect(joined([], 'conjunction', 'en')).to.equal('')
  })
})

describe('names', () => {
  it('are parted into given and family names', () => {
    expect(nameParts('Maud Ellery')).to.deep.equal({ first: 'Maud', last: 'Ellery' })
    expect(nameParts('Ellery, Maud Ann')).to.deep.equal({ first: 'Maud Ann', last: 'Ellery' })
    expect(nameParts('Pieter van der Sloot')).to.deep.equal({ first: 'Pieter', last: 'van der Sloot' })
    expect(nameParts('Sabine')).to.deep.equal({ first: 'Sabine', last: 'Sabine' })
  })
})
