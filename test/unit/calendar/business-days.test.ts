import { expect } from 'chai'
import fc from 'fast-check'
import { Temporal } from 'temporal-polyfill'
import {
  addBusinessDays,
  addMonths,
  businessDaysBetween,
  isBusinessDay,
  rollToBusinessDay,
} from '#core/calendar/business-days.ts'

const day = (text: string) => Temporal.PlainDate.from(text)
const none: ReadonlySet<string> = new Set()
const anyDay = fc
  .integer({ min: 0, max: 36_500 })
  .map((n) => Temporal.PlainDate.from('2000-01-01').add({ days: n }))

/** The same, day by day. */
function stepped(from: Temporal.PlainDate, days: number, holidays: ReadonlySet<string>): Temporal.PlainDate {
  let date = from
  for (let left = Math.abs(days); left > 0;) {
    date = date.add({ days: Math.sign(days) })
    if (isBusinessDay(date, holidays)) left--
  }
  return date
}

const someHolidays = fc.array(fc.integer({ min: -60, max: 60 }), { maxLength: 12 }).map(
  (offsets) =>
    (from: Temporal.PlainDate): ReadonlySet<string> =>
      new Set(offsets.map((days) => String(from.add({ days })))),
)

describe('business days', () => {
  it('step over weekends and holidays, forwards and back', () => {
    expect(String(addBusinessDays(day('2027-05-14'), 1, none))).to.equal('2027-05-17')
    expect(String(addBusinessDays(day('2027-05-17'), -1, none))).to.equal('2027-05-14')
    expect(String(addBusinessDays(day('2027-05-14'), 1, new Set(['2027-05-17'])))).to.equal('2027-05-18')
    expect(String(addBusinessDays(day('2027-05-15'), 0, none))).to.equal('2027-05-15')
  })

  it('end where a term is no term any more', () => {
    expect(addBusinessDays(day('2027-05-14'), 1_000_000, none)).to.equal(null)
    expect(addMonths(day('2027-05-14'), 1_000_000, false)).to.equal(null)
  })

  it('roll to the next, the last, or back into the month', () => {
    const saturdayAtMonthEnd = day('2027-07-31')
    const roll = (kind: Parameters<typeof rollToBusinessDay>[1]) =>
      String(rollToBusinessDay(saturdayAtMonthEnd, kind, none))
    expect(roll('following')).to.equal('2027-08-02')
    expect(roll('modified following')).to.equal('2027-07-30')
    expect(roll('preceding')).to.equal('2027-07-30')
    expect(String(rollToBusinessDay(day('2027-08-01'), 'modified preceding', none))).to.equal('2027-08-02')
  })

  it('keep the end of a month only where that is asked for', () => {
    expect(String(addMonths(day('2027-02-28'), 1, false))).to.equal('2027-03-28')
    expect(String(addMonths(day('2027-02-28'), 1, true))).to.equal('2027-03-31')
    expect(String(addMonths(day('2027-01-31'), 1, false))).to.equal('2027-02-28')
  })

  it('counted between two dates are those added from one to the other', () => {
    fc.assert(
      fc.property(anyDay, fc.integer({ min: 1, max: 400 }), (from, days) => {
        const to = addBusinessDays(from, days, none)!
        expect(businessDaysBetween(from, to, none)).to.equal(days)
        expect(isBusinessDay(to, none)).to.equal(true)
      }),
    )
  })

  it('rolled to are business days, at most as far away as the holidays are long', () => {
    fc.assert(
      fc.property(anyDay, fc.constantFrom('following' as const, 'preceding' as const), (from, roll) => {
        const to = rollToBusinessDay(from, roll, none)
        expect(isBusinessDay(to, none)).to.equal(true)
        expect(Math.abs(from.until(to).days)).to.be.lessThan(3)
      }),
    )
  })

  it('are where stepping from day to day gets to, holidays or not', () => {
    fc.assert(
      fc.property(anyDay, fc.integer({ min: -40, max: 40 }), someHolidays, (from, days, around) => {
        const holidays = around(from)
        const to = addBusinessDays(from, days, holidays)!
        expect(String(to)).to.equal(String(stepped(from, days, holidays)))
        let counted = 0
        const [start, end] = days < 0 ? [to, from] : [from, to]
        for (let date = start; Temporal.PlainDate.compare(date, end) < 0;) {
          date = date.add({ days: 1 })
          if (isBusinessDay(date, holidays)) counted++
        }
        expect(Math.abs(businessDaysBetween(from, to, holidays)!)).to.equal(counted)
      }),
    )
  })

  it('take a holiday that is no date for none', () => {
    expect(String(addBusinessDays(day('2027-05-14'), 1, new Set(['May Day', '2027-5-17'])))).to.equal(
      '2027-05-17',
    )
  })
})
