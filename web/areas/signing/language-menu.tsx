import { Languages } from 'lucide-react'
import { LANGUAGES } from '#core/languages/language.ts'
import type { Language } from '#core/languages/language.ts'
import { call } from '#web/api/client.ts'
import { Menu, MenuItem } from '#web/parts/menu.tsx'
import { useWords } from './words.tsx'

/** Each language by its own name. */
const NAMES: Readonly<Record<Language, string>> = { en: 'English', es: 'Español', fr: 'Français' }

/** Changes the language of the page, and of the mails from now on. */
export function LanguageMenu({
  token,
  onLanguage,
}: {
  readonly token: string
  readonly onLanguage: (language: Language) => void
}) {
  const { say, language } = useWords()
  const choose = (chosen: Language) => {
    onLanguage(chosen)
    // The page has changed already; where this does not arrive, only mails stay as they were.
    void call('chooseLanguage', { params: { token }, body: { language: chosen } }).catch(() => undefined)
  }
  return (
    <Menu
      trigger={
        <button
          className="flex min-h-11 min-w-11 items-center justify-center gap-1.5 px-2 text-sm text-soft hover:text-ink"
          aria-label={`${say('page.language')}: ${NAMES[language]}`}
        >
          <Languages size={16} aria-hidden />
          <span className="hidden sm:inline">{NAMES[language]}</span>
        </button>
      }
    >
      {LANGUAGES.map((each) => (
        <MenuItem key={each} onSelect={() => choose(each)}>
          <span lang={each} className="block py-1">
            {NAMES[each]}
          </span>
        </MenuItem>
      ))}
    </Menu>
  )
}
