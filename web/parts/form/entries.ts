import * as v from 'valibot'
import { isEmail } from '#core/outline/coerce.ts'

// What forms check before they send: texts as they stand in inputs, to what the server is sent.

/** A text that must not be empty, without the blanks around it; `ask` says what to enter. */
export const filled = (ask: string, most = 200) =>
  v.pipe(v.string(), v.trim(), v.nonEmpty(ask), v.maxLength(most, `No more than ${most} characters.`))

/** A text that may be empty. */
export const text = (most = 1000) =>
  v.pipe(v.string(), v.trim(), v.maxLength(most, `No more than ${most} characters.`))

/** A choice that may be none: the empty text is null. */
export const orNone = v.pipe(
  v.string(),
  v.transform((value) => (value === '' ? null : value)),
)

/** A whole number of `least` to `most`. */
export const whole = (least: number, most = Number.MAX_SAFE_INTEGER) => {
  const ask = most < Number.MAX_SAFE_INTEGER ? `A whole number from ${least} to ${most}.` : 'A whole number.'
  return v.pipe(
    v.string(),
    v.trim(),
    v.nonEmpty(ask),
    v.transform(Number),
    v.integer(ask),
    v.minValue(least, ask),
    v.maxValue(most, ask),
  )
}

/** A whole number, or null if nothing is entered. */
export const wholeOrNone = (least: number, most?: number) =>
  v.union([
    v.pipe(
      v.literal(''),
      v.transform(() => null),
    ),
    whole(least, most),
  ])

/** An email address that the server takes too. */
export const email = v.pipe(
  v.string(),
  v.trim(),
  v.nonEmpty('Enter an email address.'),
  v.check((address) => address === '' || isEmail(address), 'This is not an email address.'),
)

/** A time of the browser’s own entry, in the zone of this device, as an instant of ISO 8601; null if none is entered. */
export const momentOrNone = v.pipe(
  v.string(),
  v.transform((value) => (value === '' ? null : new Date(value).toISOString())),
)

/** An instant as the browser’s own entry shows it, in the zone of this device. */
export const localMoment = (at: string | null): string =>
  at === null
    ? ''
    : new Date(new Date(at).getTime() - new Date(at).getTimezoneOffset() * 60_000).toISOString().slice(0, 16)
