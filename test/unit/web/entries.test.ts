import { expect } from 'chai'
import fc from 'fast-check'
import * as v from 'valibot'
import {
  email,
  filled,
  localMoment,
  momentOrNone,
  orNone,
  whole,
  wholeOrNone,
} from '#web/parts/form/entries.ts'

const messages = (schema: v.GenericSchema, value: unknown): readonly string[] => {
  const parsed = v.safeParse(schema, value)
  return parsed.success ? [] : parsed.issues.map(({ message }) => message)
}

describe('what forms check before they send', () => {
  it('a text without the blanks around it; empty, it says what to enter', () => {
    expect(v.parse(filled('Enter a name.'), '  Amos Pell ')).to.equal('Amos Pell')
    expect(messages(filled('Enter a name.'), '   ')).to.deep.equal(['Enter a name.'])
    expect(messages(filled('Enter a name.', 3), 'Amos')).to.deep.equal(['No more than 3 characters.'])
  })

  it('whole numbers between their bounds, and none where none is needed', () => {
    const days = whole(1, 366)
    fc.assert(
      fc.property(fc.integer({ min: -1000, max: 1000 }), (n) => {
        expect(v.is(days, String(n))).to.equal(n >= 1 && n <= 366)
      }),
    )
    for (const wrong of ['', '1.5', 'ten', '1e9', ' '])
      expect(messages(days, wrong)[0]).to.equal('A whole number from 1 to 366.')
    expect(v.parse(wholeOrNone(1), '')).to.equal(null)
    expect(v.parse(wholeOrNone(1), '12')).to.equal(12)
    expect(v.is(wholeOrNone(1), '0')).to.equal(false)
  })

  it('a choice of none is null', () => {
    expect([v.parse(orNone, ''), v.parse(orNone, 'sales')]).to.deep.equal([null, 'sales'])
  })

  it('email addresses', () => {
    expect(v.parse(email, ' amos@growers.example ')).to.equal('amos@growers.example')
    // What the server takes beyond ASCII (RFC 6531) is taken here.
    expect(v.parse(email, 'amos@grünfeld.example')).to.equal('amos@grünfeld.example')
    expect(messages(email, '')).to.deep.equal(['Enter an email address.'])
    expect(messages(email, 'amos@growers')).to.deep.equal(['This is not an email address.'])
  })

  it('times of this device: what is shown of an instant is read as that instant, to the minute', () => {
    fc.assert(
      fc.property(
        fc.date({ min: new Date('2000-01-01'), max: new Date('2060-01-01'), noInvalidDate: true }),
        (at) => {
          const minute = new Date(Math.floor(at.getTime() / 60_000) * 60_000).toISOString()
          expect(v.parse(momentOrNone, localMoment(minute))).to.equal(minute)
        },
      ),
    )
    expect([localMoment(null), v.parse(momentOrNone, '')]).to.deep.equal(['', null])
  })
})
