import type { Language } from './language.ts'
import { en, type Words } from './en.ts'
import { es } from './es.ts'
import { fr } from './fr.ts'
import { type Speaker, speakerOf } from './speak.ts'

/** What signers and respondents read, by language. */
export const WORDS: Readonly<Record<Language, Words>> = { en, es, fr }

const speakers = new Map<Language, Speaker>()

/** Whoever speaks a language; made once. The page of a signer loads its one language by itself. */
export function speaks(language: Language): Speaker {
  const speaker = speakers.get(language) ?? speakerOf(language, WORDS[language])
  speakers.set(language, speaker)
  return speaker
}
