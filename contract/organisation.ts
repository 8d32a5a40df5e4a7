import * as v from 'valibot'
import { isEmail } from '#core/outline/coerce.ts'
import { isLanguage, isTimeZone, TAX_SCHEMES, type TaxScheme } from '#core/organisation/organisation.ts'
import { shortText } from './basics.ts'

const word = v.pipe(v.string(), v.trim(), v.toLowerCase(), v.minLength(1), v.maxLength(60))

/** Whose installation it is; the time zone by its IANA name, the language as a BCP 47 tag. */
export const organisationSchema = v.object({
  name: shortText,
  address: v.pipe(v.string(), v.trim(), v.maxLength(500)),
  place: v.pipe(v.string(), v.trim(), v.maxLength(120)),
  language: v.pipe(v.string(), v.check(isLanguage, 'This is no language tag, such as en-US.')),
  timeZone: v.pipe(v.string(), v.check(isTimeZone, 'This is no time zone, such as Europe/Paris.')),
  sender: v.pipe(v.string(), v.trim(), v.maxLength(254), v.check(isEmail, 'This is not an email address.')),
  synonyms: v.pipe(
    v.array(v.pipe(v.array(word), v.minLength(2, 'A group needs two words.'), v.maxLength(20))),
    v.maxLength(100),
  ),
  city: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(120)), ''),
  postCode: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(20)), ''),
  taxNumber: v.optional(
    v.pipe(
      v.string(),
      v.trim(),
      v.maxLength(40),
      v.check(
        (text) => text === '' || /^[A-Za-z0-9][A-Za-z0-9 .\-/+*]*$/.test(text),
        'This is no tax number.',
      ),
    ),
    '',
  ),
  taxScheme: v.optional(v.picklist(Object.keys(TAX_SCHEMES) as TaxScheme[]), 'VAT'),
})

/** A series' pattern: `{n}` is its running number. */
export const seriesPattern = v.pipe(
  v.string(),
  v.trim(),
  v.maxLength(60),
  v.check(
    (text) => text.split('{n}').length === 2,
    'The pattern needs {n} once, where the running number stands.',
  ),
)

/** The organisation with its number series; `version` goes back with a change. */
export const settingsSchema = v.object({
  organisation: organisationSchema,
  version: v.number(),
  series: v.array(
    v.object({ id: v.string(), pattern: v.string(), lastNumber: v.number(), templates: v.number() }),
  ),
})
/** A change of the settings from the version that was read. */
export const settingsChange = v.object({
  version: v.number(),
  organisation: organisationSchema,
  series: v.pipe(v.array(v.object({ id: v.string(), pattern: seriesPattern })), v.maxLength(100)),
})

/** The first run: the organisation, the pattern of its agreements' numbers, and whoever administers it. */
export const founding = v.object({
  code: v.pipe(v.string(), v.maxLength(100)),
  organisation: organisationSchema,
  pattern: seriesPattern,
  administrator: v.object({
    name: shortText,
    email: v.pipe(
      v.string(),
      v.trim(),
      v.toLowerCase(),
      v.maxLength(254),
      v.check(isEmail, 'This is not an email address.'),
    ),
    post: shortText,
    password: v.pipe(
      v.string(),
      v.minLength(12, 'The password needs 12 characters at least.'),
      v.maxLength(200),
    ),
  }),
})
