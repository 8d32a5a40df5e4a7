import { parseDate } from '../calendar/days.ts'
import { isoTime, parseTime } from '../calendar/times.ts'
import type { DateOrder } from './cell.ts'

/** A text read as a day, a time of day, or both; or why it cannot be. ISO 8601 without zone. */
export type ReadMoment =
  | { readonly ok: true; readonly date: string; readonly time: string | null }
  | { readonly ok: false; readonly problem: string }

/** Longer texts are no dates, in any language. */
const LONGEST = 60

/** Languages whose names of months are known. */
const LANGUAGES = ['en', 'es', 'fr', 'de', 'it', 'pt', 'nl'] as const

const plain = (text: string) =>
  text
    .toLowerCase()
    .normalize('NFD')
    .replace(/[\u0300-\u036f.]/g, '')

/** Months by their names, whole or shortened, in all of these languages (CLDR); a name that means two months is none. */
const months: ReadonlyMap<string, number> = (() => {
  const found = new Map<string, number | null>()
  for (const language of LANGUAGES)
    for (const month of ['long', 'short'] as const) {
      const format = new Intl.DateTimeFormat(language, { month, day: 'numeric', timeZone: 'UTC' })
      for (let i = 0; i < 12; i++) {
        const name =
          format.formatToParts(Date.UTC(2027, i, 1)).find(({ type }) => type === 'month')?.value ?? ''
        const key = plain(name)
        if (key.length < 3) continue
        found.set(key, found.has(key) && found.get(key) !== i + 1 ? null : i + 1)
      }
    }
  for (const [name, month] of [
    ['sept', 9],
    ['mrz', 3],
  ] as const)
    found.set(name, month)
  return new Map([...found].filter((each): each is [string, number] => each[1] !== null))
})()

const monthOf = (name: string): number | undefined => months.get(plain(name))

const fail = (problem: string): ReadMoment => ({ ok: false, problem })

/**
 * A day as people and programs write it: `2027-04-02`, `2027/4/2`, `20270402`, `2/4/2027`, `2-Apr-27`, `April 2, 2027`,
 * `2. abril de 2027`, each with or without a time of day. `order` says how 2/4/2027 is read; null refuses to guess. Years of
 * two digits are those from 2000 on. A time's zone is left out: it is the wall clock's time that counts.
 */
export function readMoment(text: string, order: DateOrder | null): ReadMoment {
  if (text.length > LONGEST) return fail(`“${text.slice(0, 40)}…” is not a date.`)
  const split =
    // eslint-disable-next-line regexp/no-super-linear-backtracking -- of sixty characters
    /^(.*?\d{1,4}|.*?\d{2})(?:T|,? +)(\d{1,2}:\d{2}(?::\d{2}(?:\.\d{1,9})?)?)? *([ap]\.?m\.?)? *(Z|[+-]\d{2}:?\d{2}|UTC|GMT)?$/i.exec(
      text,
    )
  const clock = split?.[2] ? readClock(split[2], split[3]) : null
  if (split?.[2] && clock === null) return fail(`“${split[2]}” is no time of day.`)
  const day = readDay(split?.[2] ? split[1]! : text, order, text)
  return day.ok ? { ...day, time: clock } : day
}

function readDay(day: string, order: DateOrder | null, text: string): ReadMoment {
  const year = (digits: string) => Number(digits) + (digits.length === 2 ? 2000 : 0)
  const iso = /^(\d{4})([-/.])(\d{1,2})\2(\d{1,2})$/.exec(day) ?? /^(\d{4})()(\d{2})(\d{2})$/.exec(day)
  if (iso) return calendarDate(text, Number(iso[1]), Number(iso[3]), Number(iso[4]))
  const named =
    /^(\d{1,2})(?:\.|er|st|nd|rd|th|º|°)?[ /-]*(?:de |of )?([\p{L}.]{3,12})[ ,/-]*(?:de |del )?(\d{4}|\d{2})$/iu.exec(
      day,
    )
  const namedFirst = /^([\p{L}.]{3,12}) +(\d{1,2})(?:st|nd|rd|th)?,? +(\d{4})$/iu.exec(day)
  const [dayText, monthText, yearText] = named
    ? [named[1], named[2], named[3]]
    : namedFirst
      ? [namedFirst[2], namedFirst[1], namedFirst[3]]
      : []
  if (dayText !== undefined) {
    const month = monthOf(monthText!)
    return month
      ? calendarDate(text, year(yearText!), month, Number(dayText))
      : fail(`“${text}” is not a date.`)
  }
  const parts = /^(\d{1,2})[/.-] ?(\d{1,2})[/.-] ?(\d{2}|\d{4})$/.exec(day)
  if (!parts) return fail(`“${text}” is not a date.`)
  const [first, second] = [Number(parts[1]), Number(parts[2])]
  const reading = first > 12 ? 'day first' : second > 12 ? 'month first' : order
  if (!reading)
    return fail(
      `“${text}” may be ${first}/${second} or ${second}/${first}: say which comes first, day or month.`,
    )
  return reading === 'day first'
    ? calendarDate(text, year(parts[3]!), second, first)
    : calendarDate(text, year(parts[3]!), first, second)
}

function calendarDate(text: string, year: number, month: number, day: number): ReadMoment {
  const pad = (part: number, length = 2) => String(part).padStart(length, '0')
  const found = parseDate(`${pad(year, 4)}-${pad(month)}-${pad(day)}`)
  return found
    ? { ok: true, date: found.toString(), time: null }
    : fail(`“${text}” is no day of the calendar.`)
}

/** `6:30`, `06:30:15`, `6:30 pm`, also with `h` or `Uhr` as some write it; ISO 8601, or null. */
export function readTime(text: string): string | null {
  if (text.length > LONGEST) return null
  const found = /^(\d{1,2})(?:[:.h](\d{2})(?::(\d{2}(?:\.\d{1,9})?))?)? *([ap]\.?m\.?|uhr|h)?$/i.exec(text)
  if (!found || (found[2] === undefined && found[4] === undefined)) return null
  const half = /^[ap]/i.test(found[4] ?? '') ? found[4] : undefined
  return readClock(`${found[1]}:${found[2] ?? '00'}${found[3] ? `:${found[3]}` : ''}`, half)
}

/** Half days count as in English: 12:00 am is midnight. */
function readClock(text: string, half: string | undefined): string | null {
  const [hour = '', ...rest] = text.split(':')
  let hours = Number(hour)
  if (half !== undefined) {
    if (hours < 1 || hours > 12) return null
    hours = (hours % 12) + (/^p/i.test(half) ? 12 : 0)
  }
  const read = parseTime([String(hours).padStart(2, '0'), ...rest].join(':'))
  return read && isoTime(read)
}
