import { checkExpression } from '../expression/check.ts'
import { compileExpression, type Expression } from '../expression/compile.ts'
import { explain } from '../expression/explain.ts'
import { children, type Syntax } from '../expression/syntax.ts'
import { type Context, toText, type Value } from '../expression/values/value.ts'
import { coerce } from '../outline/coerce.ts'
import { type Field, nameTypes, type Outline } from '../outline/field.ts'
import { fieldTypes, nameFromColumn } from '../mapping/from-columns.ts'
import { toValue } from '../outline/record.ts'
import { type CellRow, cellText } from '../outline/cell.ts'
import type { Column } from '../sheet/columns.ts'

// Row rules speak of the source's columns, not of a template's fields: what says whether a row is wanted ("Status") is
// often nothing that stands in the agreement.

/** The columns as fields, in their order: "Leased land" is `leased_land`. */
export function columnFields(columns: readonly Column[]): Outline {
  const taken = new Set<string>()
  return columns.map(({ name, type, values }): Field => {
    const wanted = nameFromColumn(name)
    let made = wanted
    for (let i = 2; taken.has(made); i++) made = `${wanted}_${i}`
    taken.add(made)
    const field = { name: made, label: name, required: false }
    return type === 'text' && values
      ? { ...field, type: 'choice', choices: values }
      : { ...field, type: fieldTypes[type] }
  })
}

/** The rule by which rows of a source are taken, compiled; or what is wrong with it. */
export type RowRule =
  | {
      readonly ok: true
      readonly expression: Expression
      /** The columns, choices spelled as the rule spells them: it is not for upper or lower case that a row is left out. */
      readonly fields: Outline
    }
  | { readonly ok: false; readonly problem: string }

/** A row rule, compiled and checked against the columns. */
export function compileRule(text: string, columns: readonly Column[]): RowRule {
  const fields = columnFields(columns)
  const compiled = compileExpression(text)
  if (!compiled.ok) return { ok: false, problem: compiled.problem.message }
  const [fault] = checkExpression(compiled.expression.syntax, nameTypes(fields), 'boolean')
  if (fault) return { ok: false, problem: fault.message }
  const said = new Map(textsIn(compiled.expression.syntax).map((text) => [text.toLowerCase(), text]))
  const spelled = fields.map((field) =>
    field.choices
      ? { ...field, choices: field.choices.map((choice) => said.get(choice.toLowerCase()) ?? choice) }
      : field,
  )
  return { ok: true, expression: compiled.expression, fields: spelled }
}

/** The texts an expression names. */
const textsIn = (node: Syntax): readonly string[] =>
  node.kind === 'string' ? [node.value] : children(node).flatMap(textsIn)

/** A row as the rule sees it; a cell that is no value of its column's type is seen as its text. */
function contextOf(fields: Outline, columns: readonly Column[], cells: CellRow): Context {
  return new Map(
    fields.map((field, i): [string, Value] => {
      const cell = cells[i] ?? null
      const read = coerce(field, cell, columns[i]!.dateOrder)
      if (read.ok) return [field.name, read.value === null ? null : toValue(field, read.value)]
      return [field.name, cellText(cell).trim() || null]
    }),
  )
}

/** Null where the rule takes the row; else why it does not, in the columns' own words. */
export function ruledOut(
  rule: RowRule & { readonly ok: true },
  columns: readonly Column[],
  cells: CellRow,
): string | null {
  const context = contextOf(rule.fields, columns, cells)
  const value = rule.expression.evaluate(context)
  if (value === true) return null
  const labels = new Map(rule.fields.map(({ name, label }) => [name, label]))
  const why = explain(rule.expression.syntax, rule.expression.text, context, {
    label: (name) => labels.get(name) ?? name,
    show: (shown) => (shown === null ? 'empty' : toText(shown)),
  })
  return value === false
    ? `Left out by the row rule: ${why}.`
    : `Left out: the row rule cannot be decided, ${why}.`
}
