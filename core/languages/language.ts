/** Languages that parties are spoken to in: BCP 47, without a region. */
export const LANGUAGES = ['en', 'es', 'fr'] as const
export type Language = (typeof LANGUAGES)[number]

/** The language nearest to a tag among those that parties are spoken to in. */
export const languageOf = (tag: string | null | undefined, otherwise: Language = 'en'): Language => {
  const first = (tag ?? '').toLowerCase().split('-')[0]
  return LANGUAGES.find((each) => each === first) ?? otherwise
}
