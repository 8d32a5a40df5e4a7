import { Temporal } from 'temporal-polyfill'

/** Whose installation this is: what seals, mails, signing pages and new templates say of it. */
export interface Organisation {
  readonly name: string
  /** Postal address, a line each. */
  readonly address: string
  /** Where it signs, as seals say it: "Tansy Falls, Oregon". */
  readonly place: string
  /** BCP 47 tag that new templates begin with. */
  readonly language: string
  /** IANA name of the zone whose days are its days. */
  readonly timeZone: string
  /** Address that its mails come from (RFC 5321). */
  readonly sender: string
  /** Words that mean the same in its sheets and templates, lower case; they help suggesting mappings. */
  readonly synonyms: readonly (readonly string[])[]
  /** As a seller on bills: city and postal code; empty: they stand in the address alone. */
  readonly city: string
  readonly postCode: string
  /** Its number with the tax office, with the country's letters where there are such; empty: it has none. */
  readonly taxNumber: string
  readonly taxScheme: TaxScheme
}

/** Taxes on what is sold, by their codes (UN/CEFACT 5153), and what they are called. */
export const TAX_SCHEMES = {
  VAT: 'value added tax',
  GST: 'goods and services tax',
  STT: 'state or provincial sales tax',
  LOC: 'local sales tax',
  OTH: 'another tax',
} as const
export type TaxScheme = keyof typeof TAX_SCHEMES

/** The host of a mail address; empty where it is none. */
export const hostOf = (address: string): string => address.slice(address.lastIndexOf('@') + 1).toLowerCase()

/** The day an instant falls on in a time zone, ISO 8601. */
export const dayIn = (timeZone: string, instant: Date): string =>
  Temporal.Instant.fromEpochMilliseconds(instant.getTime())
    .toZonedDateTimeISO(timeZone)
    .toPlainDate()
    .toString()

/** The hour of the day that an instant falls in there, 0 to 23. */
export const hourIn = (timeZone: string, instant: Date): number =>
  Number(new Intl.DateTimeFormat('en-GB', { timeZone, hour: '2-digit', hourCycle: 'h23' }).format(instant))

/** Whether a name is a time zone of the IANA database that is known here. */
export function isTimeZone(name: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: name })
    return true
  } catch {
    return false
  }
}

/** Whether a text is a language tag (BCP 47). */
export function isLanguage(tag: string): boolean {
  try {
    return Intl.getCanonicalLocales(tag)[0] === tag
  } catch {
    return false
  }
}
