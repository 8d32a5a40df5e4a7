import type { BlankKind } from '../document/tree.ts'
import { compileExpression } from '../expression/compile.ts'
import { number } from '../expression/value.ts'
import type { Value } from '../expression/value.ts'
import type { BlankRules } from '../merge/finished.ts'

export interface SigningParty {
  readonly id: string
  readonly role: string
  /** Lower numbers sign first; equal ones side by side. */
  readonly order: number
  readonly signedAt: string | null
}

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

/** Who may sign now: the unsigned of the lowest order. */
export function whoseTurn<P extends SigningParty>(parties: readonly P[]): readonly P[] {
  const open = parties.filter((party) => party.signedAt === null)
  const lowest = Math.min(...open.map((party) => party.order))
  return open.filter((party) => party.order === lowest)
}

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

/** What a signer put into a blank, as far as its rules look at it. */
export type Filled =
  | { readonly kind: 'text'; readonly text: string }
  | { readonly kind: 'tick' }
  | { readonly kind: 'choice'; readonly chosen: readonly number[] }
  | { readonly kind: 'other' }

const many = (n: number, one: string) => `${n} ${one}${n === 1 ? '' : 's'}`

/** What is wrong with a value, to say beside the blank; null where nothing is. */
export function valueProblem(
  blank: Pick<PlacedBlank, 'kind' | 'label' | 'rules'>,
  value: Filled,
): string | null {
  const { rules = {}, kind, label } = blank
  if (value.kind === 'choice') {
    const { options = [], most = 1 } = rules
    const chosen = new Set(value.chosen)
    if ([...chosen].some((at) => !options[at])) return `“${label}” has no such option.`
    if (chosen.size > most) return `“${label}”: choose at most ${many(most, 'option')}.`
  }
  if (value.kind !== 'text') return null
  const amount = kind === 'number' ? readFigure(value.text) : null
  if (kind === 'number' && amount === null) return rules.message ?? `“${value.text}” is not a number.`
  if (!rules.check) return null
  const compiled = compileExpression(rules.check)
  const input: Value = kind === 'number' ? number(amount!) : value.text
  const holds = compiled.ok && compiled.expression.evaluate(new Map([['value', input]])) === true
  return holds ? null : (rules.message ?? `“${value.text}” does not fit here.`)
}

/** A figure as typed, with commas or blanks between thousands. */
const readFigure = (text: string): string | null => {
  const plain = text.trim().replace(/(?<=\d)[,\s](?=\d{3}(\D|$))/g, '')
  return /^-?\d{1,30}(\.\d{1,20})?$/.test(plain) ? plain : null
}

/** What is not enough, or too much, to sign with: choices with too few options, groups of ticks out of their bounds. */
export function unfinished(
  blanks: readonly PlacedBlank[],
  role: string,
  values: ReadonlyMap<string, Filled>,
): readonly { readonly blank: PlacedBlank; readonly message: string }[] {
  const own = blanksOf(blanks, role)
  const groups = new Map<string, PlacedBlank[]>()
  for (const blank of own) {
    const group = blank.kind === 'tick' ? blank.rules?.group : undefined
    if (group) groups.set(group.name, [...(groups.get(group.name) ?? []), blank])
  }
  const ofChoices = own.flatMap((blank) => {
    const value = values.get(blank.id)
    const least = blank.rules?.least ?? 0
    return value?.kind === 'choice' && new Set(value.chosen).size < least
      ? [{ blank, message: `“${blank.label}”: choose at least ${many(least, 'option')}.` }]
      : []
  })
  const ofGroups = [...groups].flatMap(([name, members]) => {
    const { least, most } = members[0]!.rules!.group!
    const count = members.filter(({ id }) => values.get(id)?.kind === 'tick').length
    if (count < least) return [{ blank: members[0]!, message: `${name}: tick at least ${least}.` }]
    return most !== null && count > most
      ? [{ blank: members[0]!, message: `${name}: tick at most ${most}.` }]
      : []
  })
  return [...ofChoices, ...ofGroups]
}
