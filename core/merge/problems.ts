import type { Body } from '../document/tree.ts'
import { titleOfClause } from '../document/walk.ts'
import type { Field } from '../outline/field.ts'
import type { Decisions } from '../wording/wording.ts'
import type { MergeProblem } from './finished.ts'
import type { ReadyTemplate } from './prepare.ts'

// What merging tells where a record does not give what a wording needs; examining tells the same.

/** A passage stands in which a value is missing. */
export const missingValue = (name: string, passage: string, label: string): MergeProblem => ({
  field: name,
  block: passage,
  message: `“${label}” has no value here.`,
})

/** In a list some items have what others have not: an optional field that is empty there stays empty. */
export const mayStayEmpty = (field: Field, item: number | null): boolean =>
  item !== null && !field.required && field.computed === undefined

/** A reference stands whose clause fell away. */
export const droppedReference = (document: Body, clause: string, passage: string): MergeProblem => ({
  field: null,
  block: passage,
  message: `A reference names “${titleOfClause(document, clause)}”, which this record drops, and has no other wording.`,
})

/** Conditions that cannot be decided, each told once. */
export const undecided = (template: ReadyTemplate, decisions: Decisions): readonly MergeProblem[] =>
  template.conditional.flatMap(({ attrs }) =>
    decisions.get(attrs.id) === null
      ? [
          {
            field: null,
            block: attrs.id,
            message: `The condition “${attrs.condition ?? 'otherwise'}” cannot be decided: a value it needs is missing.`,
          },
        ]
      : [],
  )
