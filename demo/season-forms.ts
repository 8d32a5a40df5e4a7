import { plainStyle, type TemplateContent } from '#core/document/template.ts'
import type { Placement } from '#core/document/tree.ts'
import { cueTo } from '#core/form/cues.ts'
import { likelyBlanks } from '#core/form/likely.ts'
import { blankOfField, emptyForm, placedBlank, placedField, styleFor } from '#core/form/new-form.ts'
import type { FoundField, PageRead } from '#core/form/page-read.ts'
import { findPhrase } from '#core/form/phrases.ts'
import { named, roleOf, sending } from './season-packet.ts'

/** A file as it was brought in. */
export interface BroughtForm {
  readonly file: string
  readonly pages: readonly PageRead[]
  readonly fields: readonly FoundField[]
}

const ids = (prefix: string) => {
  let count = 0
  return () => `${prefix}${++count}`
}

const WORDS = { 'The land is leased; the owner has agreed': 'land.leased' } as const
const VALUES: Readonly<Record<string, string>> = {
  Grower: 'grower.contact',
  Orchard: 'grower.name',
  County: 'orchard.county',
  Season: 'season',
  Colonies: 'colonies',
  State: 'orchard.state',
}
const SIGNED: Readonly<Record<string, string>> = {
  'Signature of the grower': 'grower',
  'Signature for the keeper': 'keeper',
}

/** The permission laid over its printed pages: what is known is merged, the rest is asked of whoever signs. */
export function siteAccessForm(brought: BroughtForm): TemplateContent {
  const newId = ids('site')
  const empty = emptyForm('Site access permission', 'en-US', [brought], newId)
  const all = brought.pages
  const content = empty.document.type === 'pages' ? empty.document.content : []
  let signs = 'grower'
  const pages = content.map((page, i) => ({
    ...page,
    content: likelyBlanks(all[i]!).map(({ box, kind, label }): Placement => {
      const id = newId()
      const value = VALUES[label]
      if (value) return placedField(id, box, value, value === 'colonies' ? 'whole' : null)
      const condition = WORDS[label as keyof typeof WORDS]
      if (condition)
        return {
          type: 'placement',
          attrs: {
            id,
            condition,
            ...box,
            style: { ...plainStyle, size: 9, align: 'center' },
          },
          content: [{ type: 'text', text: 'X' }],
        }
      signs = SIGNED[label] ?? signs
      const blank = placedBlank(
        id,
        box,
        { kind, role: signs, label, required: kind === 'signature' || kind === 'date' },
        { style: styleFor(box) },
      )
      const [phrase] = SIGNED[label] ? findPhrase(all, label) : []
      return phrase ? { ...blank, attrs: { ...blank.attrs, cue: cueTo(blank, label, 1, phrase) } } : blank
    }),
  }))
  return {
    ...empty,
    outline: named([
      'season',
      'grower.name',
      'grower.contact',
      'grower.email',
      'orchard.county',
      'orchard.state',
      'colonies',
      'land.leased',
    ]),
    roles: [...roleOf('grower'), ...roleOf('keeper')],
    document: { type: 'pages', content: pages },
    sending: sending('Site access permission'),
  }
}

const KNOWN: Readonly<Record<string, string>> = { colonies: 'colonies', destination: 'orchard.county' }

/** The declaration over the fields that its file has: the keeper fills what is not known. */
export function healthDeclarationForm(brought: BroughtForm): TemplateContent {
  const newId = ids('health')
  const empty = emptyForm('Colony health declaration', 'en-US', [brought], newId)
  const content = empty.document.type === 'pages' ? empty.document.content : []
  const pages = content.map((page, i) => ({
    ...page,
    content: [
      ...brought.fields
        .filter((field) => field.page === i + 1)
        .map((field) => {
          const known = KNOWN[field.name]
          return known ? placedField(newId(), field.box, known) : blankOfField(newId(), field, 'keeper')
        }),
      ...likelyBlanks(brought.pages[i]!)
        .filter(({ kind }) => kind === 'signature' || (i > 0 && kind === 'date'))
        .map(({ box, kind, label }) =>
          placedBlank(newId(), box, { kind, role: 'keeper', label, required: true }),
        ),
    ],
  }))
  return {
    ...empty,
    outline: named(['season', 'grower.name', 'orchard.county', 'colonies']),
    roles: roleOf('keeper'),
    document: { type: 'pages', content: pages },
    sending: sending('Colony health declaration'),
  }
}
