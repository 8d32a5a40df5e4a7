import { keysOf } from '../keys-of.ts'

interface LanguageKind {
  /** In English, as the interface and records name it. */
  readonly name: string
  /** As its own speakers do. */
  readonly own: string
  /** What else sheets call it, in small letters. */
  readonly also: readonly string[]
}

/** Languages that parties are spoken to in, by their BCP 47 tags without a region; each has its words beside this (`all.ts`). */
const KINDS = {
  en: { name: 'English', own: 'English', also: [] },
  es: { name: 'Spanish', own: 'Español', also: ['espanol', 'castellano'] },
  fr: { name: 'French', own: 'Français', also: ['francais'] },
} as const satisfies Readonly<Record<string, LanguageKind>>

export type Language = keyof typeof KINDS
/** The languages that parties are spoken to in. */
export const LANGUAGES = keysOf(KINDS)

/** A language's name in English. */
export const languageName = (language: Language): string => KINDS[language].name
/** A language's name in itself. */
export const ownName = (language: Language): string => KINDS[language].own

/** The language that a word names: its tag, its English name, its own or another; null where it is none of ours. */
export const languageCalled = (word: string): Language | null => {
  const small = word.trim().toLowerCase()
  return (
    LANGUAGES.find((each) => {
      const { name, own, also }: LanguageKind = KINDS[each]
      return [each, name.toLowerCase(), own.toLowerCase(), ...also].includes(small)
    }) ?? null
  )
}

/** The language nearest to a tag among those that parties are spoken to in. */
export const languageOf = (tag: string | null | undefined, otherwise: Language = 'en'): Language => {
  const first = (tag ?? '').toLowerCase().split('-')[0]
  return LANGUAGES.find((each) => each === first) ?? otherwise
}
