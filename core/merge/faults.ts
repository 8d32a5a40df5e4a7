import type { SignerRole, TemplateContent } from '../document/template.ts'
import type { TreePart } from '../document/tree.ts'
import { allPlacements, isPassage, isText, partsWithRepeat, passageTitle } from '../document/walk.ts'
import { checkExpression, type NameTypes } from '../expression/check.ts'
import { compileExpression } from '../expression/compile.ts'
import type { ExpressionProblem } from '../expression/syntax.ts'
import { isEmail } from '../outline/coerce.ts'
import {
  type Field,
  fieldNameProblem,
  fieldsByName,
  nameTypes,
  nameTypesInRepeat,
  type Outline,
} from '../outline/field.ts'
import { type Prepared, prepareOutline } from '../outline/record.ts'
import { patternNames } from '../text/pattern.ts'
import { SIGNER_GROUP, templateFields, type TemplateFields } from './fields.ts'

/** A fault of a template: in which passage, field or role it stands and, for an expression, at which characters. */
export interface TemplateProblem {
  readonly where: 'block' | 'field' | 'role' | 'sending' | 'page'
  readonly id: string
  readonly title: string
  readonly message: string
  readonly from: number | null
  readonly to: number | null
}

const unpositioned = { from: null, to: null } as const

/** Faults of an expression over these names. */
export function expressionFaults(
  text: string,
  names: NameTypes,
  wanted: 'boolean' | 'any' = 'boolean',
): readonly ExpressionProblem[] {
  const compiled = compileExpression(text)
  return compiled.ok ? checkExpression(compiled.expression.syntax, names, wanted) : [compiled.problem]
}

/** A template looked through: its fields, its outline prepared, and everything that keeps it from being merged. */
export interface Inspected {
  readonly fields: TemplateFields
  readonly outline: Prepared
  readonly faults: readonly TemplateProblem[]
}

/** Everything that keeps a template from being merged or published. */
export const templateFaults = (content: TemplateContent): readonly TemplateProblem[] =>
  inspect(content).faults

/** Looks a template through once, for its faults and for what merging it needs. */
export function inspect(content: TemplateContent): Inspected {
  const fields = templateFields(content)
  const { all } = fields
  const outline = prepareOutline(fields.outline, fields.given)
  const faults = [
    ...outlineFaults(content, outline),
    ...documentFaults(content, all),
    ...lostFaults(content),
    ...roleFaults(content, all),
    ...noticeFaults(content),
    ...patternFaults(content, all),
  ]
  return { fields, outline, faults }
}

/** Places that were not surely found again in another version of their file. */
const lostFaults = (content: TemplateContent): readonly TemplateProblem[] =>
  allPlacements(content.document).flatMap(({ placement }) =>
    placement.attrs.lost
      ? [
          {
            where: 'block' as const,
            id: placement.attrs.id,
            title: passageTitle(placement),
            message:
              'It was not found for sure in the other version of its file. Move it to its place, or say that it stands right.',
            ...unpositioned,
          },
        ]
      : [],
  )

/** A notice goes to somebody, and nobody has anything to do with it. */
function noticeFaults(content: TemplateContent): readonly TemplateProblem[] {
  if (!content.sending.notice) return []
  const fills = [...partsWithRepeat(content.document.content)].some(
    ({ part }) => part.type === 'blank' || (part.type === 'signatureBlock' && part.attrs.roles.length > 0),
  )
  const at = { where: 'sending' as const, id: 'notice', title: 'Notice', ...unpositioned }
  return [
    ...(content.roles.length === 0
      ? [{ ...at, message: 'A notice needs a role that receives it, for its email address.' }]
      : []),
    ...(content.sending.notice === 'mail text' && !isText(content.document)
      ? [{ ...at, message: 'Pages cannot be the text of a mail: let them go as an attachment.' }]
      : []),
    ...(fills || content.initialsOnEveryPage.length > 0
      ? [{ ...at, message: 'A notice is signed by nobody: take out its signatures, initials and blanks.' }]
      : []),
  ]
}

function outlineFaults(content: TemplateContent, prepared: Prepared): readonly TemplateProblem[] {
  const problems: TemplateProblem[] = []
  const titles = new Map<string, string>()
  const seen = new Set<string>()
  const name = (field: Field, full: string) => {
    const at = { where: 'field' as const, id: full, title: field.label || full, ...unpositioned }
    titles.set(full, field.label)
    const message = fieldNameProblem(field.name)
    if (message) problems.push({ ...at, message })
    if (seen.has(full)) problems.push({ ...at, message: `Two fields are called “${full}”.` })
    seen.add(full)
    if (field.type === 'choice' && field.computed === undefined && !field.choices?.length)
      problems.push({ ...at, message: `“${field.label}” is a choice without anything to choose from.` })
  }
  for (const field of content.outline) {
    name(field, field.name)
    const at = { where: 'field' as const, id: field.name, title: field.label, ...unpositioned }
    const [group] = field.name.split('.')
    if (group === SIGNER_GROUP)
      problems.push({
        ...at,
        message: `The group “${SIGNER_GROUP}” belongs to the roles; call the field otherwise.`,
      })
    const inner = content.outline.find((other) => other.name.startsWith(`${field.name}.`))
    if (inner)
      problems.push({
        ...at,
        message: `“${field.name}” is a field and the group of “${inner.name}” at once.`,
      })
    if (field.type !== 'list') continue
    if (!field.items?.length)
      problems.push({ ...at, message: `The list “${field.label}” has no fields for its items.` })
    for (const item of field.items ?? []) {
      name(item, `${field.name}.${item.name}`)
      if (item.type === 'list' || item.name.includes('.'))
        problems.push({
          ...at,
          message: `“${item.label}” stands in a list and can be neither a list nor in a group.`,
        })
    }
    problems.push(...lineItemFaults(field, content.outline).map((message) => ({ ...at, message })))
  }
  if (!prepared.ok)
    problems.push(
      ...prepared.problems.map(({ field, message, from, to }) => ({
        where: 'field' as const,
        id: field,
        title: titles.get(field) ?? field,
        message,
        from,
        to,
      })),
    )
  return problems
}

function lineItemFaults(list: Field, outline: Outline): readonly string[] {
  const rule = list.lineItems
  if (!rule) return []
  const item = (name: string | null) => list.items?.find((each) => each.name === name)
  const faults: string[] = []
  const wants = (name: string | null, what: string, types: readonly Field['type'][]) => {
    if (name === null) return
    const found = item(name)
    if (!found)
      faults.push(`The ${what} of “${list.label}” is the field “${name}”, which its items do not have.`)
    else if (!types.includes(found.type))
      faults.push(`The ${what} of “${list.label}” has to be ${types.join(' or ')}.`)
  }
  wants(rule.price, 'price', ['money'])
  wants(rule.quantity, 'quantity', ['number'])
  wants(rule.discount, 'discount', ['percent'])
  wants(rule.taxRate, 'tax rate', ['percent'])
  if (rule.overallDiscount !== null) {
    const found = outline.find(({ name }) => name === rule.overallDiscount)
    if (!found || (found.type !== 'percent' && found.type !== 'money'))
      faults.push(`The discount on the whole of “${list.label}” has to be a percent or money field.`)
  }
  return faults
}

function documentFaults(content: TemplateContent, all: Outline): readonly TemplateProblem[] {
  const problems: TemplateProblem[] = []
  const roles = new Set(content.roles.map(({ key }) => key))
  const mergeable = fieldsByName(all)
  const lists = new Set(all.filter(({ type }) => type === 'list').map(({ name }) => name))
  const names = new Map<string | null, NameTypes>()
  const namesIn = (repeat: string | null) => {
    const made = names.get(repeat) ?? nameTypesInRepeat(all, repeat)
    names.set(repeat, made)
    return made
  }
  const parts = [...partsWithRepeat(content.document.content)]
  const clauses = new Set(parts.flatMap(({ part }) => (part.type === 'clause' ? [part.attrs.id] : [])))
  const ids = new Set<string>()
  const groups = new Set(content.tickGroups?.map(({ name }) => name))
  let passage: { id: string; title: string } = { id: '', title: 'The document' }
  for (const { part, repeat } of parts) {
    if (isPassage(part) && part.type !== 'phrase') passage = { id: part.attrs.id, title: passageTitle(part) }
    const at = { where: 'block' as const, ...passage, ...unpositioned }
    const say = (message: string) => problems.push({ ...at, message })
    if (isPassage(part)) {
      const { id, condition, repeat: list } = part.attrs
      if (ids.has(id)) say('Two passages have the same id.')
      ids.add(id)
      if (list && !lists.has(list))
        say(`This passage repeats with “${list}”, which is no list of the outline.`)
      if (condition !== null)
        problems.push(
          ...expressionFaults(condition, namesIn(repeat)).map((fault) => ({ ...at, id, ...fault })),
        )
    }
    problems.push(
      ...partFaults(part, repeat, { mergeable, lists, roles, clauses, groups, names: namesIn(repeat) }).map(
        (message) => ({ ...at, message }),
      ),
    )
  }
  return problems
}

interface Known {
  readonly mergeable: ReturnType<typeof fieldsByName>
  readonly lists: ReadonlySet<string>
  readonly roles: ReadonlySet<string>
  readonly clauses: ReadonlySet<string>
  readonly groups: ReadonlySet<string>
  readonly names: NameTypes
}

function partFaults(part: TreePart, repeat: string | null, known: Known): readonly string[] {
  switch (part.type) {
    case 'mergeField': {
      const { field } = part.attrs
      const found = known.mergeable.get(field)
      if (!found)
        return [
          known.lists.has(field)
            ? `“${field}” is a list; name one of its fields, or repeat the passage with it.`
            : `There is no field “${field}”.`,
        ]
      return found.list && found.list.name !== repeat
        ? [
            `“${field}” belongs to the items of “${found.list.label}”; the passage has to repeat with that list.`,
          ]
        : []
    }
    case 'blank': {
      const { role, condition, prefill, check, kind, options, group, label } = part.attrs
      const faults: string[] = []
      if (!known.roles.has(role)) faults.push(`A blank belongs to the role “${role}”, which is not there.`)
      if (condition) faults.push(...expressionFaults(condition, known.names).map(({ message }) => message))
      if (prefill && !known.mergeable.has(prefill))
        faults.push(`The blank “${label}” is filled from “${prefill}”, which is not there.`)
      if (check)
        faults.push(
          ...expressionFaults(
            check,
            new Map([...known.names, ['value', kind === 'number' ? 'number' : 'string']]),
          ).map(({ message }) => `The check of the blank “${label}”: ${message}`),
        )
      if (kind === 'choice' && !options?.length)
        faults.push(`The blank “${label}” is a choice without anything to choose from.`)
      if (group && !known.groups.has(group))
        faults.push(`The blank “${label}” belongs to the group “${group}”, which is not there.`)
      return faults
    }
    case 'reference':
      return known.clauses.has(part.attrs.clause)
        ? []
        : ['A reference names a clause that is not there any more.']
    case 'signatureBlock':
      return part.attrs.roles
        .filter((role) => !known.roles.has(role))
        .map((role) => `The signatures name the role “${role}”, which is not there.`)
    default:
      return []
  }
}

function roleFaults(content: TemplateContent, all: Outline): readonly TemplateProblem[] {
  const keys = new Set<string>()
  return content.roles.flatMap((role) => {
    const at = { where: 'role' as const, id: role.key, title: role.label, ...unpositioned }
    const problems: TemplateProblem[] = []
    if (keys.has(role.key)) problems.push({ ...at, message: `Two roles have the key “${role.key}”.` })
    keys.add(role.key)
    if (fieldNameProblem(role.key))
      problems.push({ ...at, message: `“${role.key}” is no key: letters, digits and _.` })
    if (!role.label.trim()) problems.push({ ...at, message: `The role “${role.key}” has no name.` })
    if (role.condition)
      problems.push(...expressionFaults(role.condition, nameTypes(all)).map((fault) => ({ ...at, ...fault })))
    return [...problems, ...fillFaults(role, all).map((message) => ({ ...at, message }))]
  })
}

function fillFaults(role: SignerRole, all: Outline): readonly string[] {
  const { fill, label } = role
  if (fill.rule === 'standing person')
    return [
      ...(fill.name.trim() ? [] : [`The role “${label}” is a fixed person without a name.`]),
      ...(isEmail(fill.email) ? [] : [`The role “${label}” is a fixed person without an email address.`]),
    ]
  if (fill.rule !== 'record') return []
  const list = fill.list ? all.find(({ name, type }) => name === fill.list && type === 'list') : null
  if (fill.list && !list)
    return [`The role “${label}” takes its people from the list “${fill.list}”, which is not there.`]
  const names = new Set((list?.items ?? all).map(({ name }) => name))
  return [fill.name, fill.email, fill.title, fill.company, fill.phone]
    .filter((name) => typeof name === 'string' && !names.has(name))
    .map((name) =>
      name === ''
        ? `The role “${label}” takes its person from the record: choose the fields of the name and of the email address.`
        : `The role “${label}” takes its person from the field “${name}”, which is not there.`,
    )
}

/** Names that head and foot know besides fields. */
export const RUNNING_NAMES = ['page', 'pages', 'number', 'title'] as const

function patternFaults(content: TemplateContent, all: Outline): readonly TemplateProblem[] {
  const fields = new Set(all.filter(({ type }) => type !== 'list').map(({ name }) => name))
  const unknown = (where: 'sending' | 'page', title: string, pattern: string, more: readonly string[]) =>
    patternNames(pattern)
      .filter((name) => !fields.has(name) && !more.includes(name))
      .map((name): TemplateProblem => ({
        where,
        id: where,
        title,
        message: `“${pattern}” names the field “${name}”, which is not there.`,
        ...unpositioned,
      }))
  const { agreementName, fileName, subject, message, copies } = content.sending
  return [
    ...[agreementName, fileName, subject, message, ...(copies ?? [])].flatMap((pattern) =>
      unknown('sending', 'Sending defaults', pattern, ['number']),
    ),
    ...[content.page?.header ?? '', content.page?.footer ?? ''].flatMap((pattern) =>
      unknown('page', 'Page', pattern, RUNNING_NAMES),
    ),
  ]
}
