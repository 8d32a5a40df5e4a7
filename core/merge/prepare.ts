import { checkExpression } from '../expression/check.ts'
import { compileExpression } from '../expression/compile.ts'
import type { Expression } from '../expression/compile.ts'
import type { TemplateContent } from '../document/template.ts'
import type { Block } from '../document/tree.ts'
import { allBlocks, allInlines, blockTitle } from '../document/walk.ts'
import { fieldNameProblem, nameTypes } from '../outline/field.ts'
import type { Field } from '../outline/field.ts'
import { prepareOutline } from '../outline/record.ts'
import type { ReadyOutline } from '../outline/record.ts'
import { patternNames } from '../text/pattern.ts'

/** A template ready to be merged many times: everything compiled, nothing left to parse. */
export interface ReadyTemplate {
  readonly content: TemplateContent
  readonly outline: ReadyOutline
  readonly fields: ReadonlyMap<string, Field>
  /** Compiled conditions by block id. */
  readonly conditions: ReadonlyMap<string, Expression>
  /** Blocks that have a condition, in reading order. */
  readonly conditional: readonly Block[]
}

/** A fault of a template: in which block, field or role it stands and, for an expression, at which characters. */
export interface TemplateProblem {
  readonly where: 'block' | 'field' | 'role' | 'sending'
  readonly id: string
  readonly title: string
  readonly message: string
  readonly from: number | null
  readonly to: number | null
}

export type PreparedTemplate =
  | { readonly ok: true; readonly ready: ReadyTemplate }
  | { readonly ok: false; readonly problems: readonly TemplateProblem[] }

/** Compiles a template's computed values and conditions, and checks every name it uses. */
export function prepareTemplate(content: TemplateContent): PreparedTemplate {
  const problems: TemplateProblem[] = []
  const fields = new Map(content.outline.map((field) => [field.name, field]))
  for (const field of content.outline) {
    const message = fieldNameProblem(field.name)
    if (message)
      problems.push({ where: 'field', id: field.name, title: field.label, message, from: null, to: null })
  }
  const outline = prepareOutline(content.outline)
  if (!outline.ok)
    problems.push(
      ...outline.problems.map(({ field, message, from, to }) => ({
        where: 'field' as const,
        id: field,
        title: fields.get(field)?.label ?? field,
        message,
        from,
        to,
      })),
    )
  const names = nameTypes(content.outline)
  const conditions = new Map<string, Expression>()
  const conditional = [...allBlocks(content.document.content)].filter(
    (block) => block.attrs.condition !== null,
  )
  for (const block of conditional) {
    const compiled = compileExpression(block.attrs.condition!)
    const faults = compiled.ok
      ? checkExpression(compiled.expression.syntax, names, 'boolean')
      : [compiled.problem]
    problems.push(
      ...faults.map((fault) => ({
        where: 'block' as const,
        id: block.attrs.id,
        title: blockTitle(block),
        ...fault,
      })),
    )
    if (compiled.ok) conditions.set(block.attrs.id, compiled.expression)
  }
  problems.push(...nameProblems(content, fields), ...roleProblems(content, fields))
  if (problems.length || !outline.ok) return { ok: false, problems }
  return { ok: true, ready: { content, outline: outline.ready, fields, conditions, conditional } }
}

const unpositioned = { from: null, to: null } as const

function nameProblems(content: TemplateContent, fields: ReadonlyMap<string, Field>): TemplateProblem[] {
  const roles = new Set(content.roles.map((role) => role.key))
  const ids = new Set<string>()
  return [...allBlocks(content.document.content)].flatMap((block) => {
    const at = { where: 'block' as const, id: block.attrs.id, title: blockTitle(block), ...unpositioned }
    const found: TemplateProblem[] = []
    if (ids.has(block.attrs.id)) found.push({ ...at, message: 'Two passages have the same id.' })
    ids.add(block.attrs.id)
    const wanted = block.type === 'signatureBlock' ? block.attrs.roles : []
    for (const part of block.type === 'heading' || block.type === 'paragraph' ? (block.content ?? []) : []) {
      if (part.type === 'mergeField' && !fields.has(part.attrs.field))
        found.push({ ...at, message: `There is no field “${part.attrs.field}”.` })
      if (part.type === 'blank' && !roles.has(part.attrs.role))
        found.push({
          ...at,
          message: `A blank belongs to the role “${part.attrs.role}”, which is not there.`,
        })
    }
    for (const role of wanted)
      if (!roles.has(role))
        found.push({ ...at, message: `The signatures name the role “${role}”, which is not there.` })
    return found
  })
}

function roleProblems(content: TemplateContent, fields: ReadonlyMap<string, Field>): TemplateProblem[] {
  const problems: TemplateProblem[] = []
  const signing = new Set(
    [...allBlocks(content.document.content)].flatMap((block) =>
      block.type === 'signatureBlock' ? block.attrs.roles : [],
    ),
  )
  for (const part of allInlines(content.document)) if (part.type === 'blank') signing.add(part.attrs.role)
  for (const role of content.roles) {
    const at = { where: 'role' as const, id: role.key, title: role.label, ...unpositioned }
    if (!signing.has(role.key))
      problems.push({ ...at, message: `The role “${role.label}” has nothing to sign or fill.` })
    if (role.fill.rule !== 'record') continue
    for (const name of [role.fill.name, role.fill.email])
      if (!fields.has(name))
        problems.push({
          ...at,
          message: `The role “${role.label}” takes its person from the field “${name}”, which is not there.`,
        })
  }
  for (const pattern of [
    content.sending.agreementName,
    content.sending.fileName,
    content.sending.subject,
    content.sending.message,
  ])
    for (const name of patternNames(pattern))
      if (!fields.has(name) && name !== 'number')
        problems.push({
          where: 'sending',
          id: 'sending',
          title: 'Sending defaults',
          message: `“${pattern}” names the field “${name}”, which is not there.`,
          ...unpositioned,
        })
  return problems
}
