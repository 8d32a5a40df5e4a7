const day = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium' })
const time = new Intl.DateTimeFormat(undefined, { timeStyle: 'short' })
const full = new Intl.DateTimeFormat(undefined, { dateStyle: 'full', timeStyle: 'medium' })

/** An instant in the reader's time zone: the time today, else the day; the whole on pointing. */
export function When({ at }: { readonly at: string }) {
  const date = new Date(at)
  const today = date.toDateString() === new Date().toDateString()
  return (
    <time dateTime={at} title={full.format(date)} className="whitespace-nowrap">
      {today ? time.format(date) : day.format(date)}
    </time>
  )
}

/** Whether an instant has passed; what has none never does. */
export const hasPassed = (at: string | null): boolean => at !== null && new Date(at) < new Date()

const isoDay = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeZone: 'UTC' })
const percent = new Intl.NumberFormat(undefined, { style: 'percent', maximumFractionDigits: 6 })
const figures = new Intl.NumberFormat(undefined, { maximumFractionDigits: 20 })

/** A cell as it was read, by its column's type: days of ISO 8601 and plain decimals in the reader's way of writing. */
export function readingText(type: string, read: string): string {
  const day = /^\d{4}-\d{2}-\d{2}/.exec(read)?.[0]
  if (day && type.startsWith('date'))
    return `${isoDay.format(new Date(`${day}T00:00Z`))}${read.slice(10).replace('T', ' ')}`
  if (type === 'percent') return percent.format(read as Intl.StringNumericLiteral)
  if (type === 'number') return figures.format(read as Intl.StringNumericLiteral)
  return read
}

/** A number with its thousands parted. */
export const count = new Intl.NumberFormat().format

/** A number with its noun: `1 row`, `3 rows`. */
export const plural = (number: number, one: string, many = `${one}s`) =>
  `${count(number)} ${number === 1 ? one : many}`

/** Seconds in words, the larger unit first. */
export function duration(seconds: number): string {
  if (seconds < 1) return 'less than a second'
  if (seconds < 90) return plural(Math.round(seconds), 'second')
  return plural(Math.round(seconds / 60), 'minute')
}

/** A file's size in bytes as people say it. */
export const fileSize = (bytes: number): string =>
  bytes < 1024 * 1024 ? `${count(Math.ceil(bytes / 1024))} KB` : `${(bytes / 1024 / 1024).toFixed(1)} MB`

const daysOnly = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeZone: 'UTC' })

/** A day of the calendar (ISO 8601), which is the same wherever it is read. */
export const Day = ({ day }: { readonly day: string }) => (
  <time dateTime={day}>{daysOnly.format(new Date(day))}</time>
)
