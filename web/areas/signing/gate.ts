import type { Signing } from '#contract/signing.ts'
import type { Language } from '#core/languages/language.ts'

/** What every gate of the signing page is given. */
export interface GateProps {
  readonly token: string
  readonly signing: Signing
  readonly onLanguage: (language: Language) => void
}
