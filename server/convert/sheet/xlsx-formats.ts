import { ZipPackage } from '#server/convert/zip-package.ts'
import { readPart } from './xml-parts.ts'

/** A whole number with leading zeros, such as a postcode, is shown with so many digits. */
type Shown =
  | 'number'
  | 'time to tenths'
  | 'date'
  | 'time'
  | 'elapsed'
  | 'date and time'
  | 'percent'
  | { readonly digits: number }

/** A format has 255 characters at the most (18.8.31; common practice). */
const LONGEST_FORMAT = 255

/** How the cells of each format (18.8.10) show a number: alike, or by what it is. */
export type Format = Shown | ((value: number) => Shown)

/** How each style of a workbook shows numbers (18.8.30). */
export async function cellFormats(zip: ZipPackage, part: string): Promise<readonly Format[]> {
  const codes = new Map<number, string>()
  const formats: Format[] = []
  let inCells = false
  await readPart(zip, part, {
    open: (name, at) => {
      if (name === 'numFmt')
        codes.set(Number(at['numFmtId']), (at['formatCode'] ?? '').slice(0, LONGEST_FORMAT))
      else if (name === 'cellXfs') inCells = true
      else if (name === 'xf' && inCells) formats.push(shownBy(Number(at['numFmtId'] ?? 0), codes))
    },
    close: (name) => {
      if (name === 'cellXfs') inCells = false
    },
  })
  return formats
}

/** Formats without a code of their own that are dates (18.8.30; those from 27 on in East Asian editions). */
const isOwnDate = (id: number): boolean =>
  (id >= 14 && id <= 17) || (id >= 27 && id <= 36) || (id >= 50 && id <= 58)

/** Formats without a code of their own that are no dates (18.8.30). */
const OWN: ReadonlyMap<number, Shown> = new Map<number, Shown>([
  [9, 'percent'],
  [10, 'percent'],
  [18, 'time'],
  [19, 'time'],
  [20, 'time'],
  [21, 'time'],
  [22, 'date and time'],
  [45, 'time'],
  [46, 'elapsed'],
  // mm:ss.0
  [47, 'time to tenths'],
])

function shownBy(id: number, codes: ReadonlyMap<number, string>): Format {
  const code = codes.get(id)
  if (code === undefined) return OWN.get(id) ?? (isOwnDate(id) ? 'date' : 'number')
  const sections = sectionsOf(code).map((section) => ({
    holds: conditionOf(section),
    shown: sectionShown(section),
  }))
  const numeric = sections.slice(0, 3)
  if (numeric.every(({ holds }) => holds === null)) {
    const [first, negative = first, zero = first] = numeric.map(({ shown }) => shown)
    if (negative === first && zero === first) return first!
    return (value) => (value > 0 ? first! : value < 0 ? negative! : zero!)
  }
  return (value) =>
    (numeric.find(({ holds }) => holds?.(value)) ?? numeric.find(({ holds }) => holds === null))?.shown ??
    'number'
}

/** The sections of a format code (18.8.31): of positive numbers, negative ones, zero, and text. */
function sectionsOf(code: string): readonly string[] {
  const sections: string[] = ['']
  for (const part of code.match(/"[^"]*"?|\\.|[^"\\;]+|;|\\/g) ?? [])
    if (part === ';') sections.push('')
    else sections[sections.length - 1] += part
  return sections
}

/** The condition that a section names, such as `[=0]`. */
function conditionOf(section: string): ((value: number) => boolean) | null {
  const found = /\[(<=|>=|<>|<|>|=)\s*(-?\d+(?:\.\d+)?)\]/.exec(section)
  if (!found) return null
  const limit = Number(found[2])
  switch (found[1]) {
    case '=':
      return (value) => value === limit
    case '<>':
      return (value) => value !== limit
    case '<':
      return (value) => value < limit
    case '>':
      return (value) => value > limit
    case '<=':
      return (value) => value <= limit
    default:
      return (value) => value >= limit
  }
}

/** How one section shows a number. */
function sectionShown(code: string): Shown {
  // Words in quotes, escaped signs, fill and colours are no part of how the number is read.
  // eslint-disable-next-line regexp/no-super-linear-move -- of 255 characters
  const bare = code.replace(/"[^"]*"|\\.|_.|\*.|\[[^\]]*\]/g, '')
  if (/general/i.test(bare)) return 'number'
  // An elapsed time goes on past a day: up to one it is a time of day, past that so many hours, as the sheet shows it.
  if (/\[(h+|m+|s+)\]/i.test(code)) return 'elapsed'
  const clock = /[hs]/i.test(bare)
  const days = /[yd]/i.test(bare) || (/m/i.test(bare) && !clock)
  if (clock) return days ? 'date and time' : /s\.0/i.test(bare) ? 'time to tenths' : 'time'
  if (days) return 'date'
  if (/^0{2,15}$/.test(bare.trim())) return { digits: bare.trim().length }
  return bare.includes('%') ? 'percent' : 'number'
}
