import { isEmail } from '../outline/coerce.ts'

// What a row says of its agreement besides the data: its language, who else gets it, which file goes along.

/** Languages that formats and signing know, with the names people use for them. */
const LANGUAGES: Readonly<Record<string, readonly string[]>> = {
  en: ['english', 'en'],
  es: ['spanish', 'español', 'espanol', 'castellano', 'es'],
  fr: ['french', 'français', 'francais', 'fr'],
}

/** BCP 47 tag of a language as a sheet names it: "Spanish", "español", "es" or "es-MX". Null where it is none of ours. */
export function readLanguage(text: string): string | null {
  const word = text.trim().toLowerCase()
  const tag = /^(en|es|fr)-([a-z]{2})$/.exec(word)
  if (tag) return `${tag[1]!}-${tag[2]!.toUpperCase()}`
  return Object.keys(LANGUAGES).find((each) => LANGUAGES[each]!.includes(word)) ?? null
}

export type ReadAddresses =
  | { readonly ok: true; readonly addresses: readonly string[] }
  | { readonly ok: false; readonly problem: string }

/** Mail addresses separated by commas, semicolons or line breaks. */
export function readAddresses(text: string): ReadAddresses {
  const addresses = text
    .split(/[,;\n]/)
    .map((each) => each.trim())
    .filter((each) => each !== '')
  const wrong = addresses.find((each) => !isEmail(each))
  return wrong === undefined
    ? { ok: true, addresses: [...new Set(addresses)] }
    : { ok: false, problem: `“${wrong}” is not a mail address.` }
}
