import { cut } from '../text/cut.ts'
/** A report that a mail did not arrive (RFC 3464), as far as it decides anything. */
export interface Returned {
  readonly to: string | null
  readonly problem: string
}

/** The fields of one block of a report, by their names in small letters; folded lines are joined (RFC 5322, 2.2.3). */
function fieldsOf(block: string): ReadonlyMap<string, string> {
  const fields = new Map<string, string>()
  for (const line of block.replace(/\r?\n[ \t]+/g, ' ').split(/\r?\n/)) {
    const colon = line.indexOf(':')
    if (colon > 0) fields.set(line.slice(0, colon).trim().toLowerCase(), line.slice(colon + 1).trim())
  }
  return fields
}

/** What stands behind the type that RFC 3464 puts before a value: `rfc822; name@host`. */
const valueOf = (typed: string): string => typed.slice(typed.indexOf(';') + 1).trim()

/**
 * What a report's `message/delivery-status` says: whom a mail did not reach, and why. Null where it says nothing final: a delay, or
 * that it has arrived.
 */
export function returnedOf(report: string): Returned | null {
  for (const block of report.split(/\r?\n[ \t]*\r?\n/)) {
    const fields = fieldsOf(block)
    if (fields.get('action')?.toLowerCase() !== 'failed') continue
    const to = fields.get('final-recipient') ?? fields.get('original-recipient')
    const why = fields.get('diagnostic-code')
    const status = fields.get('status')
    return {
      to: to ? valueOf(to) : null,
      problem: cut(why ? valueOf(why) : (status ?? 'It came back.'), 300),
    }
  }
  return null
}
