import type { TreePart } from '../document/tree.ts'
import { isPassage } from '../document/walk.ts'
import type { Context } from '../expression/values/value.ts'
import { type Field, type FieldValue, isItems, type ItemData, type RecordData } from '../outline/field.ts'
import { isPlain, unrolled } from '../wording/wording.ts'
import type { ReadyTemplate } from './prepare.ts'

/** Where in the record a part stands: the names it sees, and the items of the repeats around it. */
export interface Scope {
  readonly context: Context
  readonly items: ReadonlyMap<string, { readonly data: ItemData; readonly index: number }>
}

/** One record on its way through a template: which parts stand, and the values that merge fields name there. */
export class StandingRecord {
  readonly top: Scope

  constructor(
    private readonly template: ReadyTemplate,
    /** Completed: computed values included. */
    readonly data: RecordData,
    context: Context,
  ) {
    this.top = { context, items: new Map() }
  }

  /** Visits the parts that stand, each with the scope it stands in: repeats unrolled, conditions decided. */
  standing<P extends TreePart>(
    parts: readonly P[],
    scope: Scope,
    visit: (part: P, scope: Scope, item: number | null) => void,
  ): void {
    if (isPlain(parts)) {
      for (const part of parts) visit(part, scope, null)
      return
    }
    for (const { part, scope: context, item, stands } of unrolled(
      parts,
      this.template.conditions,
      scope.context,
    ))
      if (stands === true)
        visit(part, item === null ? scope : this.itemScope(part, scope, context, item), item)
  }

  private itemScope(part: TreePart, scope: Scope, context: Context, index: number): Scope {
    const list = isPassage(part) ? part.attrs.repeat! : ''
    const items = this.data[list]
    const data = isItems(items) ? (items[index] ?? {}) : {}
    return { context, items: new Map([...scope.items, [list, { data, index }]]) }
  }

  /** What a merge field names; null where the template has no such name. `item` counts from 0. */
  valueOf(
    name: string,
    scope: Scope,
  ): { field: Field; value: FieldValue | undefined; item: number | null } | null {
    const found = this.template.mergeable.get(name)
    if (!found) return null
    const { field, list } = found
    if (!list) return { field, value: this.data[name], item: null }
    const item = scope.items.get(list.name)
    return { field, value: item?.data[field.name], item: item?.index ?? null }
  }
}
