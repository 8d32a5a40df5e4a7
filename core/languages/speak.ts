import i18next from 'i18next'
import type { Language } from './language.ts'
import type { Words, WordKey } from './en.ts'

/** Says something in one language. */
export type Say = (key: WordKey, values?: Readonly<Record<string, string | number>>) => string

/** Someone who speaks one language. */
export interface Speaker {
  readonly language: Language
  readonly say: Say
  /** A day in a zone, such as “November 27, 2026”. */
  readonly day: (at: Date, zone: string) => string
  /** A moment in a zone, to the second, with the zone’s name. */
  readonly moment: (at: Date, zone: string) => string
}

/** Text of the reader’s own direction stays whole within another (Unicode bidirectional algorithm, first strong isolate). */
const RIGHT_TO_LEFT = /[\u0590-\u08ff\ufb1d-\ufdff\ufe70-\ufefc]/
const isolated = (value: string | number) =>
  typeof value === 'string' && RIGHT_TO_LEFT.test(value) ? `\u2068${value}\u2069` : value

/** Speaks a language with its words; values are put in as they are. */
export function speakerOf(language: Language, words: Words): Speaker {
  const spoken = i18next.createInstance()
  void spoken.init({
    lng: language,
    resources: { [language]: { translation: words } },
    // What is said becomes text of a mail, a page or a document, each of which escapes by its own rules.
    interpolation: { escapeValue: false, skipOnVariables: true },
    initAsync: false,
    showSupportNotice: false,
  } as Parameters<typeof spoken.init>[0])
  const date = (at: Date, timeZone: string, options: Intl.DateTimeFormatOptions) =>
    new Intl.DateTimeFormat(language, { timeZone, ...options }).format(at)
  return {
    language,
    say: (key, values = {}) =>
      spoken.t(
        key,
        Object.fromEntries(Object.entries(values).map(([name, value]) => [name, isolated(value)])),
      ),
    day: (at, zone) => date(at, zone, { dateStyle: 'long' }),
    moment: (at, zone) => date(at, zone, { dateStyle: 'medium', timeStyle: 'long' }),
  }
}
