import { inside, isPassage, partsLeadingTo } from '../document/walk.ts'
import type { Body, TreePart, PassageAttributes } from '../document/tree.ts'
import { type Context, isContext, isList, type Value, valueAt } from '../expression/values/value.ts'
import type { Expression } from '../expression/compile.ts'
import { keyOfPassages } from './key.ts'
import { perObject } from '../per-object.ts'

/** Each conditional passage: kept, dropped, or null where its condition cannot be decided. */
export type Decisions = ReadonlyMap<string, boolean | null>

/** What deciding needs of a template: its tree, its compiled conditions by passage id, and which passages have one. */
export interface Decidable {
  readonly content: { readonly document: Body }
  readonly conditions: ReadonlyMap<string, Expression>
  /** Passages that have a condition or are an alternative. */
  readonly conditional: readonly { readonly attrs: PassageAttributes }[]
}

const isConditional = (attrs: PassageAttributes): boolean =>
  attrs.condition !== null || attrs.alternative === true

/**
 * Which of some siblings stand, by their place: an alternative only where nothing before it in its chain does. Null
 * where a condition cannot be decided; after such a one no alternative can be either.
 */
export function standing(
  siblings: readonly TreePart[],
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
export function scopesOf(part: TreePart, scope: Context): readonly { scope: Context; item: number | null }[] {
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

/** Parts on the way to a passage with a condition, only these have to be walked for every record. */
const partsLeading = perObject((document: Body) =>
  partsLeadingTo(document.content, (part) => isPassage(part) && isConditional(part.attrs)),
)

/**
 * Decides every condition of a template. A passage inside a dropped one is dropped, whatever its own condition says;
 * one inside a repeat is kept where it is for any item.
 */
export function decide(template: Decidable, context: Context): Decisions {
  const decisions = new Map<string, boolean | null>()
  for (const { attrs } of template.conditional) decisions.set(attrs.id, false)
  const leads = partsLeading(template.content.document)
  const visit = (parts: readonly TreePart[], scope: Context): void => {
    if (!parts.some((part) => leads.has(part))) return
    for (const { part, scope: inner, stands } of unrolled(parts, template.conditions, scope)) {
      if (isPassage(part) && isConditional(part.attrs)) {
        const { id } = part.attrs
        decisions.set(id, either(decisions.get(id), stands))
      }
      if (stands === true) visit(inside(part), inner)
    }
  }
  visit(template.content.document.content, context)
  return decisions
}

/** Siblings without a condition, an alternative or a repeat among them: they stand as they are. */
export const isPlain = perObject((parts: readonly TreePart[]): boolean =>
  parts.every(
    (part) => !isPassage(part) || (!isConditional(part.attrs) && (part.attrs.repeat ?? null) === null),
  ),
)

/** Siblings with their repeats unrolled, each with the scope it stands in and whether it does. */
export function unrolled<P extends TreePart>(
  parts: readonly P[],
  conditions: ReadonlyMap<string, Expression>,
  scope: Context,
): readonly { part: P; scope: Context; item: number | null; stands: boolean | null }[] {
  const outer = standing(parts, conditions, scope)
  const found: { part: P; scope: Context; item: number | null; stands: boolean | null }[] = []
  parts.forEach((part, i) => {
    if (!isPassage(part) || !part.attrs.repeat) {
      found.push({ part, scope, item: null, stands: outer[i]! })
      return
    }
    // A condition of a passage that itself repeats is asked for each item, in the item's scope.
    for (const { scope: inner, item } of scopesOf(part, scope))
      found.push({ part, scope: inner, item, stands: standing([part], conditions, inner)[0]! })
  })
  return found
}

/** Two records have the same key exactly where they keep the same passages. */
export const wordingKey = (decisions: Decisions): string =>
  keyOfPassages(
    [...decisions]
      .filter(([, kept]) => kept === true)
      .map(([id]) => id)
      .sort(),
  )
