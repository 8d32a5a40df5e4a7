import type { TemplateContent } from '../document/template.ts'
import type { Passage, PassageAttributes } from '../document/tree.ts'
import { allPassages, isPassage, partsWithRepeat } from '../document/walk.ts'
import { compileExpression, type Expression } from '../expression/compile.ts'
import { type Field, fieldsByName, type FoundField } from '../outline/field.ts'
import type { ReadyOutline } from '../outline/record.ts'
import { perObject } from '../per-object.ts'
import { inspect, type TemplateProblem } from './faults.ts'

export type { TemplateProblem } from './faults.ts'

type ConditionalPassage = Passage & { readonly attrs: PassageAttributes }

/** A template ready to be merged many times: everything compiled, nothing left to parse. */
export interface ReadyTemplate {
  readonly content: TemplateContent
  readonly outline: ReadyOutline
  /** Fields of the record by name, those that come by themselves included; lists are here as themselves. */
  readonly fields: ReadonlyMap<string, Field>
  /** What merge fields may name: `buyer.name`, and of a list's items `lines.price`. */
  readonly mergeable: ReadonlyMap<string, FoundField>
  /** Compiled conditions of passages, blanks and roles (`role:key`) by id. */
  readonly conditions: ReadonlyMap<string, Expression>
  /** Passages that have a condition or are an alternative, in reading order. */
  readonly conditional: readonly ConditionalPassage[]
}

/** A template ready to be merged, or everything that is wrong with it. */
export type PreparedTemplate =
  | { readonly ok: true; readonly ready: ReadyTemplate }
  | { readonly ok: false; readonly problems: readonly TemplateProblem[] }

/** Compiles a template's computed values and conditions, and checks every name it uses. */
export function prepareTemplate(content: TemplateContent): PreparedTemplate {
  const { fields, outline, faults } = inspect(content)
  if (faults.length || !outline.ok) return { ok: false, problems: faults }
  const { all } = fields
  return {
    ok: true,
    ready: {
      content,
      outline: outline.ready,
      fields: new Map(all.map((field) => [field.name, field])),
      mergeable: fieldsByName(all),
      conditions: compiledConditions(content),
      conditional: allPassages(content.document).filter(
        ({ attrs }) => attrs.condition !== null || attrs.alternative === true,
      ),
    },
  }
}

/** The id under which a role’s condition is told. */
export const roleConditionId = (key: string): string => `role:${key}`

function compiledConditions(content: TemplateContent): ReadonlyMap<string, Expression> {
  const conditions = new Map<string, Expression>()
  const add = (id: string, text: string | null | undefined) => {
    if (text === null || text === undefined) return
    const compiled = compileExpression(text)
    if (compiled.ok) {
      const { expression } = compiled
      // Whether a passage stands, which wording that makes, whether it can be decided: of one record it is worked out once.
      conditions.set(id, { ...expression, evaluate: perObject((record) => expression.evaluate(record)) })
    }
  }
  for (const { part } of partsWithRepeat(content.document.content))
    if (isPassage(part) || part.type === 'blank') add(part.attrs.id, part.attrs.condition)
  for (const role of content.roles) add(roleConditionId(role.key), role.condition)
  return conditions
}
