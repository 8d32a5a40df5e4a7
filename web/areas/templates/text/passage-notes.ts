import type { Node } from '@tiptap/pm/model'

export const PASSAGE_NOTES = {
  condition: 'When this passage stands',
  repeat: 'How often this passage stands',
  roles: 'Who fills or signs here',
  library: 'From the clause library',
  keep: 'Stays on one page',
  check: 'Something to look at',
} as const

/** A note about a passage of the editor's document. */
export interface PassageNote {
  readonly kind: keyof typeof PASSAGE_NOTES
  readonly id: string
  readonly position: number
  readonly text: string
  readonly condition: string | null
  readonly alternative: boolean
  readonly repeat: string | null
  /** The list whose items the passage stands in. */
  readonly inRepeat: string | null
}

/** How conditions, lists and roles are told. */
export interface Told {
  readonly condition: (text: string) => string
  readonly list: (name: string) => string
  readonly role: (key: string) => string
}

const asWritten: Told = { condition: (text) => text, list: (name) => name, role: (key) => key }

const conditionText = (condition: string | null, alternative: boolean, told: Told): string =>
  alternative
    ? condition === null
      ? 'otherwise'
      : `else where ${told.condition(condition)}`
    : `only where ${told.condition(condition ?? '')}`

/** Everything the margin tells, in reading order: one note for each thing that happens to a passage, or that `checked` names. */
export function passageNotes(
  document: Node,
  checked: ReadonlySet<string> = new Set(),
  told: Told = asWritten,
): readonly PassageNote[] {
  const found: PassageNote[] = []
  const visit = (node: Node, position: number, repeat: string | null): void => {
    const attrs = node.attrs as Record<string, unknown>
    const own = (attrs['repeat'] as string | null | undefined) ?? null
    const inRepeat = own ?? repeat
    const condition = (attrs['condition'] as string | null | undefined) ?? null
    const alternative = attrs['alternative'] === true
    const note = (kind: PassageNote['kind'], text: string): void => {
      found.push({
        kind,
        id: String(attrs['id']),
        position,
        text,
        condition,
        alternative,
        repeat: own,
        inRepeat,
      })
    }
    const passage = 'condition' in attrs && node.type.name !== 'blank'
    if (passage && (condition !== null || alternative))
      note('condition', conditionText(condition, alternative, told))
    if (passage && own) note('repeat', `for each of ${told.list(own)}`)
    if (passage && attrs['keep'] === true)
      note('keep', node.type.name === 'signatureBlock' ? 'with the words above' : 'on one page')
    const source = attrs['source'] as { edition: number; linked: boolean } | null | undefined
    if (source)
      note('library', `${source.linked ? 'linked to' : 'copied from'} the library, edition ${source.edition}`)
    if (node.type.name === 'signatureBlock')
      note('roles', `${(attrs['roles'] as string[]).map(told.role).join(', ')} sign here`)
    // A check has a note of its own where the passage has none that could carry it.
    const id = attrs['id']
    if (node.isBlock && typeof id === 'string' && checked.has(id) && found.at(-1)?.id !== id)
      note('check', '')
    node.forEach((child, offset) => visit(child, position + 1 + offset, inRepeat))
  }
  document.forEach((child, offset) => visit(child, offset, null))
  return found
}
