import { Languages } from 'lucide-react'
import { type Language, LANGUAGES, ownName } from '#core/languages/language.ts'
import { call } from '#web/api/client.ts'
import { useWords } from './words.tsx'

/** Changes the language of the page, and of the mails from now on. */
export function LanguageMenu({
  token,
  onLanguage,
}: {
  readonly token: string
  readonly onLanguage: (language: Language) => void
}) {
  const choose = (chosen: Language) => {
    onLanguage(chosen)
    // The page has changed already; where this does not arrive, only mails stay as they were.
    void call('chooseLanguage', { params: { token }, body: { language: chosen } }).catch(() => undefined)
  }
  return <LanguageChoice onChoose={choose} />
}

/** The telephone’s own list, which every thumb knows. */
export function LanguageChoice({ onChoose }: { readonly onChoose: (language: Language) => void }) {
  const { say, language } = useWords()
  return (
    <label className="flex min-h-11 items-center gap-1 text-sm text-soft hover:text-ink">
      <Languages size={16} aria-hidden />
      <select
        className="min-h-11 bg-transparent"
        aria-label={say('page.language')}
        value={language}
        onChange={(event) => onChoose(LANGUAGES.find((each) => each === event.target.value)!)}
      >
        {LANGUAGES.map((each) => (
          <option key={each} value={each} lang={each}>
            {ownName(each)}
          </option>
        ))}
      </select>
    </label>
  )
}
