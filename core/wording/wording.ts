import { isPassage, inside, partsWithRepeat } from '../document/walk.ts'
import type { DocumentTree, Part, PassageAttributes } from '../document/tree.ts'
import { isContext, isList } from '../expression/value.ts'
import type { Context, Value } from '../expression/value.ts'
import type { Expression } from '../expression/compile.ts'
import { valueAt } from '../merge/fields.ts'

/** Each conditional passage: kept, dropped, or null where its condition cannot be decided. */
export type Decisions = ReadonlyMap<string, boolean | null>

/** What deciding needs of a template: its tree and its compiled conditions by passage id. */
export interface Decidable {
  readonly content: { readonly document: DocumentTree }
  readonly conditions: ReadonlyMap<string, Expression>
}

const isConditional = (attrs: PassageAttributes): boolean =>
  attrs.condition !== null || attrs.alternative === true

/**
 * Which of some siblings stand, by their place: an alternative only where nothing before it in its chain does. Null
 * where a condition cannot be decided; after such a one no alternative can be either.
 */
export function standing(
  siblings: readonly Part[],
  conditions: ReadonlyMap<string, Expression>,
  scope: Context,
): readonly (boolean | null)[] {
  let taken: boolean | null = false
  return siblings.map((part) => {
    if (!isPassage(part)) {
      taken = false
      return true
    }
    const { id, alternative } = part.attrs
    if (!alternative) taken = false
    const expression = conditions.get(id)
    const value = expression ? expression.evaluate(scope) : true
    const holds = typeof value === 'boolean' ? value : null
    if (taken === true) return false
    if (taken === null) return null
    taken = holds
    return holds
  })
}

/** The scopes a passage stands in: the record's, or one for each item of the list it repeats with. */
export function scopesOf(part: Part, scope: Context): readonly { scope: Context; item: number | null }[] {
  const list = isPassage(part) ? part.attrs.repeat : null
  if (!list) return [{ scope, item: null }]
  return listItems(valueAt(scope, list)).map((item, i) => ({
    scope: new Map<string, Value>([...scope, ['item', item]]),
    item: i,
  }))
}

const listItems = (value: Value): readonly Context[] => (isList(value) ? value.filter(isContext) : [])

/** Of several decisions on one passage, one for each item: kept where any is. */
const either = (before: boolean | null | undefined, now: boolean | null): boolean | null =>
  before === true || now === true ? true : before === null || now === null ? null : false

/**
 * Decides every condition of a template. A passage inside a dropped one is dropped, whatever its own condition says;
 * one inside a repeat is kept where it is for any item.
 */
export function decide(template: Decidable, context: Context): Decisions {
  const decisions = new Map<string, boolean | null>()
  for (const { part } of partsWithRepeat(template.content.document.content))
    if (isPassage(part) && isConditional(part.attrs)) decisions.set(part.attrs.id, false)
  const seen = new Set<string>()
  const visit = (parts: readonly Part[], scope: Context): void => {
    // A condition of a passage that itself repeats is asked for each item, in the item's scope.
    const outer = standing(parts, template.conditions, scope)
    parts.forEach((part, i) => {
      for (const { scope: inner, item } of scopesOf(part, scope)) {
        const stands = item === null ? outer[i]! : standing([part], template.conditions, inner)[0]!
        if (isPassage(part) && isConditional(part.attrs)) {
          const { id } = part.attrs
          decisions.set(id, either(seen.has(id) ? decisions.get(id) : undefined, stands))
          seen.add(id)
        }
        if (stands === true) visit(inside(part), inner)
      }
    })
  }
  visit(template.content.document.content, context)
  return decisions
}

/** Two records have the same key exactly where they keep the same passages. */
export const wordingKey = (decisions: Decisions): string =>
  [...decisions]
    .filter(([, kept]) => kept === true)
    .map(([id]) => id)
    .sort()
    .join(' ')
