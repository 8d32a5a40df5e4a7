import type { TemplateContent } from '#core/document/template.ts'
import type { PagesTree } from '#core/document/tree.ts'
import { isText } from '#core/document/walk.ts'

/** A new id for a page or a placement. */
export const newId = (): string => crypto.randomUUID().slice(0, 13)

const emptyPages: PagesTree = { type: 'pages', content: [] }

/** The pages of a template; a text has none. */
export const pagesOf = ({ document }: TemplateContent): PagesTree =>
  isText(document) ? emptyPages : document
