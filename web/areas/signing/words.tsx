import { createContext, type ReactNode, use, useEffect } from 'react'
import { type Language, languageOf } from '#core/languages/language.ts'
import { speaks } from '#core/languages/all.ts'
import type { Speaker } from '#core/languages/speak.ts'
import type { WordKey } from '#core/languages/en.ts'

const Spoken = createContext<Speaker | null>(null)

/** Speaks one language to all that is within; the page is marked with it. */
export function Speaking({
  language,
  children,
}: {
  readonly language: Language
  readonly children: ReactNode
}) {
  useEffect(() => {
    document.documentElement.lang = language
    return () => {
      document.documentElement.lang = 'en'
    }
  }, [language])
  return <Spoken value={speaks(language)}>{children}</Spoken>
}

const Pages = createContext('en')

/** What the pages are written in (BCP 47), which may be another language than the reader's: values stand on them so. */
export const WrittenIn = ({
  language,
  children,
}: {
  readonly language: string
  readonly children: ReactNode
}) => <Pages value={language}>{children}</Pages>
export const useDocumentLanguage = (): string => use(Pages)

export function useWords(): Speaker {
  const speaker = use(Spoken)
  if (!speaker) throw new Error('Nobody speaks here.')
  return speaker
}

/** The language of the browser among those that are spoken here, for who has none yet. */
export const browserLanguage = (): Language => languageOf(navigator.language)

/**
 * What a place is called: what the text’s author wrote, or for places that the product names itself (signature, day, initials of a
 * page), the reader’s words.
 */
export function useLabel(): (place: { readonly id: string | null; readonly label: string }) => string {
  const { say } = useWords()
  return ({ id, label }) => {
    const initials = /^initials\..+\.(\d+)$/.exec(id ?? '')
    if (initials) return say('blank.initialsOf', { page: initials[1]! })
    const own = OWN.get(label)
    return own ? say(own) : label
  }
}

/** Labels that places have where their author wrote none. */
const OWN: ReadonlyMap<string, WordKey> = new Map([
  ['Signature', 'blank.signature'],
  ['Date signed', 'blank.date'],
  ['Initials', 'blank.initials'],
])
