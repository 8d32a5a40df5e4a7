import type { ReadyTemplate } from '../merge/prepare.ts'
import type { Context } from '../expression/value.ts'
import { allBlocks, innerBlocks } from '../document/walk.ts'
import type { Block } from '../document/tree.ts'

/** Each conditional passage: kept, dropped, or null where its condition cannot be decided. */
export type Decisions = ReadonlyMap<string, boolean | null>

/** Decides every condition of a template. A passage inside a dropped one is dropped, whatever its own condition says. */
export function decide(template: ReadyTemplate, context: Context): Decisions {
  const decisions = new Map<string, boolean | null>()
  const visit = (blocks: readonly Block[]): void => {
    for (const block of blocks) {
      const condition = template.conditions.get(block.attrs.id)
      if (condition) {
        const value = condition.evaluate(context)
        decisions.set(block.attrs.id, typeof value === 'boolean' ? value : null)
      }
      if (decisions.get(block.attrs.id) ?? !condition) visit(innerBlocks(block))
      else
        for (const inner of allBlocks(innerBlocks(block)))
          if (inner.attrs.condition !== null) decisions.set(inner.attrs.id, false)
    }
  }
  visit(template.content.document.content)
  return decisions
}

/** Two records have the same key exactly where they keep the same passages. */
export const wordingKey = (decisions: Decisions): string =>
  [...decisions]
    .filter(([, kept]) => kept === true)
    .map(([id]) => id)
    .sort()
    .join(' ')
