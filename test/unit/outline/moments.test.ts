import type { FieldType } from '#core/outline/field-kinds.ts'
import { expect } from 'chai'
import fc from 'fast-check'
import { isoDateTime, isoTime, parseDateTime, parseTime } from '#core/calendar/times.ts'
import { coerce } from '#core/outline/coerce.ts'
import type { Field } from '#core/outline/field.ts'
import { readMoment, readTime } from '#core/outline/read-date.ts'
import { toStored, toValue } from '#core/outline/record.ts'
import { formatValue } from '#core/text/format.ts'

const field = (type: FieldType): Field => ({ name: 'x', label: 'X', type, required: false })

describe('days and times as people and programs write them', () => {
  const days: readonly (readonly [string, string])[] = [
    ['31-May-13', '2013-05-31'],
    ['2011/10/31', '2011-10-31'],
    ['20111031', '2011-10-31'],
    ['31. Oktober 2011', '2011-10-31'],
    ['31 octobre 2011', '2011-10-31'],
    ['1er août 2027', '2027-08-01'],
    ['31 de octubre de 2011', '2011-10-31'],
    ['October 31st, 2011', '2011-10-31'],
    ['31 Oct 2011', '2011-10-31'],
    ['10/31/2011 12:00:00 AM', '2011-10-31'],
    ['2011-10-31T14:30:00Z', '2011-10-31'],
    ['2011-10-31T14:30:00+02:00', '2011-10-31'],
    ['2011-10-31 14:30', '2011-10-31'],
  ]
  for (const [text, day] of days)
    it(`${text} is ${day}`, () => {
      const read = readMoment(text, null)
      expect(read.ok && read.date).to.equal(day)
    })

  it('keeps the time of day beside the day', () => {
    expect(readMoment('10/31/2011 12:00:00 AM', null)).to.include({ time: '00:00' })
    expect(readMoment('10/31/2011 1:05 PM', null)).to.include({ time: '13:05' })
    expect(readMoment('2011-10-31T14:30:15.5Z', null)).to.include({ time: '14:30:15.5' })
  })

  it('refuses what is no day, or may be two', () => {
    for (const text of [
      '31. Febrember 2011',
      '2011-02-30',
      '20111331',
      '3/4/2027',
      '2011-10-31 25:00',
      'x'.repeat(50_000),
    ])
      expect(readMoment(text, null).ok, text.slice(0, 20)).to.equal(false)
    for (const text of ['25:00', '13:00 pm', '12', '6:60']) expect(readTime(text), text).to.equal(null)
    expect(readTime('6 pm')).to.equal('18:00')
    expect(readTime('6.30 Uhr')).to.equal('06:30')
  })

  it('a time written and read is the same', () => {
    const time = fc.record({ hour: fc.nat(23), minute: fc.nat(59), second: fc.nat(59) })
    fc.assert(
      fc.property(time, ({ hour, minute, second }) => {
        const text = [hour, minute, second].map((part) => String(part).padStart(2, '0')).join(':')
        const read = parseTime(text)!
        expect(parseTime(isoTime(read))!.equals(read)).to.equal(true)
        const both = parseDateTime(`2027-03-01T${text}`)!
        expect(parseDateTime(isoDateTime(both))!.equals(both)).to.equal(true)
      }),
    )
  })

  it('goes through an outline as the value it is, and is shown in the reader’s way', () => {
    const moment = coerce(field('date and time'), '2027-03-28 06:30', null)
    expect(moment).to.deep.equal({ ok: true, value: '2027-03-28T06:30' })
    const value = toValue(field('date and time'), '2027-03-28T06:30')
    expect(toStored(field('date and time'), value)).to.equal('2027-03-28T06:30')
    expect(formatValue(field('date and time'), value, 'ISO', 'en-US')).to.equal('2027-03-28T06:30')
    expect(formatValue(field('date and time'), value, 'long', 'en-US')).to.match(/^March 28, 2027.*6:30\sAM$/)
    const time = toValue(field('time'), '18:05')
    expect(formatValue(field('time'), time, null, 'en-US')).to.match(/^6:05\sPM$/)
    expect(formatValue(field('time'), time, null, 'de-DE')).to.equal('18:05')
    expect(coerce(field('date'), { dateTime: '2027-03-28T06:30' }, null)).to.deep.equal({
      ok: true,
      value: '2027-03-28',
    })
    expect(coerce(field('time'), 0.25, null).ok).to.equal(false)
  })

  it('figures in more writings', () => {
    const amount = (text: string) => {
      const read = coerce(field('money'), text, null)
      return read.ok ? read.value : read.problem
    }
    expect(amount('1e3')).to.equal('1000')
    expect(amount('₹1,23,456.00')).to.equal('123456')
    expect(amount('1,23,45,678')).to.equal('12345678')
    expect(amount('1.237,50')).to.equal('1237.5')
    expect(amount('1e999')).to.match(/not a number/)
  })
})
