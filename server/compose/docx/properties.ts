import type { TemplateContent } from '#core/document/template.ts'
import type { BlankPlace, Reference } from '#core/document/tree.ts'

/** Names of the document properties that keep what has no place in the text. */
export const OUTLINE_PROPERTY = 'Data outline'
/** Names of the custom properties in which a DOCX keeps what its text cannot say. */
export const ROLES_PROPERTY = 'Signer roles'
export const SENDING_PROPERTY = 'Sending defaults'
export const PAGE_PROPERTY = 'Page'
/** What markers in the text have no words for, in the order of the text. */
export const REST_PROPERTY = 'Rest of the template'

/** See `REST_PROPERTY`. Blanks, references and conditions stand in the order of the text. */
export interface RestOfTemplate extends Pick<TemplateContent, 'language' | 'initialsOnEveryPage'> {
  readonly look: string | null
  readonly tickGroups: NonNullable<TemplateContent['tickGroups']>
  readonly conditions: readonly string[]
  readonly blanks: readonly BlankPlace['attrs'][]
  readonly references: readonly Pick<Reference['attrs'], 'form' | 'fallback'>[]
}
