import { languageCalled, LANGUAGES } from '../languages/language.ts'
import { isEmail } from '../outline/coerce.ts'

// What a row says of its agreement besides the data: its language, who else gets it, which file goes along.

/** BCP 47 tag of a language as a sheet names it: "Spanish", "español", "es" or "es-MX". Null where it is none of ours. */
export function readLanguage(text: string): string | null {
  const [, language = '', region = ''] = /^([a-z]{2})-([a-z]{2})$/i.exec(text.trim()) ?? []
  const known = LANGUAGES.find((each) => each === language.toLowerCase())
  return known ? `${known}-${region.toUpperCase()}` : languageCalled(text)
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
    : { ok: false, problem: `“${wrong}” is not an email address.` }
}
