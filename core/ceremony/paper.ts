import { blanksOf, fillsItself, type PlacedBlank } from '../agreement/signing.ts'

// Signing on paper: what stands in the code of each printed page, and which pages have to come back.

/** Base64url without padding of a UUID's 16 bytes. */
const SHORT = /^B1\.([\w-]{22})\.(\d{1,4})$/

const bytesOf = (uuid: string): Uint8Array =>
  Uint8Array.from(uuid.replaceAll('-', '').match(/../g) ?? [], (pair) => Number.parseInt(pair, 16))

const base64 = (bytes: Uint8Array): string =>
  btoa(String.fromCharCode(...bytes))
    .replaceAll('+', '-')
    .replaceAll('/', '_')
    .slice(0, 22)

/** What stands in the code of a page: whose copy it is (a party's id, so one revision's), and the page, from 1. */
export const paperCode = (partyId: string, page: number): string => `B1.${base64(bytesOf(partyId))}.${page}`

/** The same read back; null: it is another code. */
export function readPaperCode(code: string): { readonly party: string; readonly page: number } | null {
  const found = SHORT.exec(code.trim())
  if (!found) return null
  const text = atob(found[1]!.replaceAll('-', '+').replaceAll('_', '/'))
  const hex = Array.from(text, (sign) => sign.charCodeAt(0).toString(16).padStart(2, '0')).join('')
  return {
    party: hex.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5'),
    page: Number(found[2]),
  }
}

/** Where a party has to have written by hand on a page that comes back: its signatures and initials, as far as they are required; without any, anywhere. */
export function placesToWrite(
  blanks: readonly PlacedBlank[],
  role: string,
  page: number,
): { readonly places: readonly PlacedBlank[]; readonly every: boolean } {
  const own = blanksOf(blanks, role).filter((blank) => blank.page === page && !fillsItself(blank))
  const signed = own.filter(({ kind, required }) => required && (kind === 'signature' || kind === 'initials'))
  return signed.length ? { places: signed, every: true } : { places: own, every: false }
}

/** Pages that have to come back: those where the party has something to sign or fill. */
export const pagesNeeded = (blanks: readonly PlacedBlank[], role: string): readonly number[] =>
  [...new Set(blanksOf(blanks, role).map(({ page }) => page))].sort((a, b) => a - b)
