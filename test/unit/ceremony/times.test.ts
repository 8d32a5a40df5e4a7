import { expect } from 'chai'
import fc from 'fast-check'
import { Temporal } from 'temporal-polyfill'
import { endOfDay, nextLook, reminderDue, remindersOf, signByOf } from '#core/ceremony/times.ts'

const ZONES = ['America/Los_Angeles', 'Europe/Paris', 'Asia/Kolkata', 'Pacific/Apia', 'UTC']
const HOUR = 3_600_000
const instants = fc.date({
  min: new Date('2024-01-01T00:00:00Z'),
  max: new Date('2029-12-31T00:00:00Z'),
  noInvalidDate: true,
})
const local = (at: Date, zone: string) =>
  Temporal.Instant.fromEpochMilliseconds(at.getTime()).toZonedDateTimeISO(zone)

describe('the date to sign by', () => {
  it('is the end of its day where the sender is, so many days of the calendar on', () => {
    expect(signByOf('America/Los_Angeles', new Date('2026-11-27T01:00:00Z'), 14).toISOString()).to.equal(
      // Still the 26th there; midnight at UTC-8.
      '2026-12-11T07:59:59.999Z',
    )
  })

  it('keeps its day over summer time, both ways', () => {
    // 8 March and 1 November 2026: 23 and 25 hours long (Energy Policy Act of 2005, section 110).
    expect(endOfDay('America/Los_Angeles', '2026-03-08').toISOString()).to.equal('2026-03-09T06:59:59.999Z')
    expect(endOfDay('America/Los_Angeles', '2026-11-01').toISOString()).to.equal('2026-11-02T07:59:59.999Z')
  })

  it('is always the last moment of that day', () => {
    fc.assert(
      fc.property(
        instants,
        fc.integer({ min: 1, max: 365 }),
        fc.constantFrom(...ZONES),
        (sent, days, zone) => {
          const end = local(signByOf(zone, sent, days), zone)
          const day = local(sent, zone).toPlainDate().add({ days })
          expect(end.toPlainDate().toString()).to.equal(day.toString())
          expect(end.add({ milliseconds: 1 }).toPlainDate().toString()).to.equal(
            day.add({ days: 1 }).toString(),
          )
        },
      ),
    )
  })
})

describe('reminders', () => {
  const zone = 'America/Los_Angeles'
  const invitedAt = new Date('2026-10-28T20:00:00Z')
  const signBy = signByOf(zone, invitedAt, 14)
  const plan = { after: [3, 7], unopened: [2, 3], before: [1] }

  it('go in the morning there, before and after the clocks change', () => {
    expect(
      remindersOf(plan, zone, { invitedAt, openedAt: null, signBy }).map(({ at }) => at.toISOString()),
    ).to.deep.equal([
      '2026-10-30T16:00:00.000Z',
      '2026-10-31T16:00:00.000Z',
      '2026-11-04T17:00:00.000Z',
      '2026-11-10T17:00:00.000Z',
    ])
  })

  it('for those who have not opened it stop once they have', () => {
    const openedAt = new Date('2026-10-29T00:00:00Z')
    expect(remindersOf(plan, zone, { invitedAt, openedAt, signBy }).map(({ key }) => key)).to.deep.equal([
      'after-3',
      'after-7',
      'before-1',
    ])
  })

  it('are never after the end nor at once, never two of one morning, and go each once however the clock is looked at', () => {
    const days = fc.array(fc.integer({ min: 0, max: 40 }), { maxLength: 4 })
    fc.assert(
      fc.property(
        instants,
        fc.integer({ min: 1, max: 30 }),
        fc.record({ after: days, unopened: days, before: days }),
        fc.constantFrom(...ZONES),
        fc.array(fc.integer({ min: 1, max: 90 }), { minLength: 1, maxLength: 60 }),
        (invited, last, some, where, pauses) => {
          const end = signByOf(where, invited, last)
          const all = remindersOf(some, where, { invitedAt: invited, openedAt: null, signBy: end })
          expect(new Set(all.map(({ at }) => at.getTime())).size).to.equal(all.length)
          for (const { at } of all) {
            expect(at < end).to.equal(true)
            expect(at.getTime() - invited.getTime()).to.be.greaterThan(6 * HOUR)
          }
          // However long the worker slept between its looks, it writes at most once a look, and nothing twice.
          const went: string[] = []
          let [now, writtenAt] = [invited, invited]
          for (const pause of pauses) {
            now = new Date(now.getTime() + pause * HOUR)
            const due = reminderDue(all, writtenAt, now)
            if (!due) continue
            expect(due.at <= now).to.equal(true)
            went.push(due.key)
            writtenAt = now
          }
          expect(new Set(went).size).to.equal(went.length)
          const next = nextLook([{ reminders: all, writtenAt }], end, now)
          expect(next > now || now > end).to.equal(true)
        },
      ),
    )
  })
})
