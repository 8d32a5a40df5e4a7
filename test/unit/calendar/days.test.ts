import { expect } from 'chai'
import fc from 'fast-check'
import { Temporal } from 'temporal-polyfill'
import { addDays, isoDate, parseDate } from '#core/calendar/days.ts'

describe('days', () => {
  it('are read from strict ISO 8601 text and from nothing else', () => {
    expect(isoDate(parseDate('2027-03-28')!)).to.equal('2027-03-28')
    expect(isoDate(parseDate('2028-02-29')!)).to.equal('2028-02-29')
    for (const text of [
      '2027-3-28',
      '2027-02-29',
      '2027-13-01',
      '28.03.2027',
      '',
      '2027-03-28T00:00',
      ' 2027-03-28',
    ])
      expect(parseDate(text), text).to.equal(null)
  })

  it('beyond the years that are usual are read as well', () => {
    expect(parseDate('-000044-03-15')?.year).to.equal(-44)
    expect(parseDate('99999999-01-01')).to.equal(null)
  })

  it('of the same text are the same date', () => {
    expect(parseDate('2027-04-01')).to.equal(parseDate('2027-04-01'))
  })

  it('stay right when more were read than are kept', () => {
    for (let day = 0; day < 9000; day++) {
      const text = String(Temporal.PlainDate.from('1990-01-01').add({ days: day }))
      expect(isoDate(parseDate(text)!)).to.equal(text)
    }
  })

  it('are as far apart as they were shifted, and come back', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 40_000 }),
        fc.integer({ min: -5000, max: 5000 }),
        (start, days) => {
          const from = addDays(parseDate('1970-01-01')!, start)
          const to = addDays(from, days)
          expect(from.until(to).days).to.equal(days)
          expect(isoDate(addDays(to, -days))).to.equal(isoDate(from))
        },
      ),
    )
  })

  it('past the last one there is are refused', () => {
    expect(() => addDays(parseDate('2027-01-01')!, 999_999_999)).to.throw(RangeError)
  })
})
