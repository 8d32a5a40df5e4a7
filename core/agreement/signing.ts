import type { BlankKind } from '../document/tree.ts'
import type { Say } from '../languages/speak.ts'
import type { BlankRules } from '../merge/finished.ts'
import type { Filled } from './filled.ts'

/** A blank with its place on the pages: PDF points from the top left corner of its page, pages from 1. */
export interface PlacedBlank {
  readonly id: string
  readonly kind: BlankKind
  readonly role: string
  readonly label: string
  readonly required: boolean
  readonly page: number
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
  readonly rules?: BlankRules | undefined
  /** Of a choice: where each option is ticked, in the order of `rules.options`. */
  readonly options?: readonly { readonly page: number; readonly x: number; readonly y: number }[] | undefined
}

/** Kinds that are filled without the signer's hand: the day of signing. */
export const fillsItself = (blank: Pick<PlacedBlank, 'kind'>): boolean => blank.kind === 'date'

/** Kinds whose value is text that was typed. */
export const TYPED_KINDS: readonly BlankKind[] = ['name', 'title', 'company', 'text', 'number']

/** A role's blanks in the order a reader meets them. */
export const blanksOf = (blanks: readonly PlacedBlank[], role: string): readonly PlacedBlank[] =>
  blanks.filter((blank) => blank.role === role).sort((a, b) => a.page - b.page || a.y - b.y || a.x - b.x)

/**
 * Required blanks of a role that have no value yet. A date blank is filled by the act of signing and never missing, and
 * neither is one in which something stands already.
 */
export const missingBlanks = (
  blanks: readonly PlacedBlank[],
  role: string,
  filled: ReadonlySet<string>,
): readonly PlacedBlank[] =>
  blanksOf(blanks, role).filter(
    (blank) => blank.required && !fillsItself(blank) && !filled.has(blank.id) && !blank.rules?.preset,
  )

/**
 * What is not enough, or too much, to sign with among one signer's blanks: choices with too few options, groups of ticks out
 * of their bounds.
 */
export function unfinished<B extends Pick<PlacedBlank, 'id' | 'kind' | 'label' | 'rules'>>(
  own: readonly B[],
  values: ReadonlyMap<string, Filled>,
  say: Say,
): readonly { readonly blank: B; readonly message: string }[] {
  const groups = new Map<string, B[]>()
  for (const blank of own) {
    const group = blank.kind === 'tick' ? blank.rules?.group : undefined
    if (group) groups.set(group.name, [...(groups.get(group.name) ?? []), blank])
  }
  const ofChoices = own.flatMap((blank) => {
    const value = values.get(blank.id)
    const least = blank.rules?.least ?? 0
    return value?.kind === 'choice' && new Set(value.chosen).size < least
      ? [{ blank, message: say('value.least', { label: blank.label, count: least }) }]
      : []
  })
  const ofGroups = [...groups].flatMap(([name, members]) => {
    const { least, most } = members[0]!.rules!.group!
    const count = members.filter(({ id }) => values.get(id)?.kind === 'tick').length
    if (count < least)
      return [{ blank: members[0]!, message: say('value.groupLeast', { group: name, count: least }) }]
    return most !== null && count > most
      ? [{ blank: members[0]!, message: say('value.groupMost', { group: name, count: most }) }]
      : []
  })
  return [...ofChoices, ...ofGroups]
}
