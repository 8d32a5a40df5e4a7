import type { TemplateContent } from '../document/template.ts'
import type { TreePart } from '../document/tree.ts'
import { clauseTitle, inside, isPassage, partsWithRepeat, passageTitle } from '../document/walk.ts'
import { compileExpression } from '../expression/compile.ts'
import { type Domains, type Example, together } from '../condition/reason.ts'
import type { Syntax } from '../expression/syntax.ts'
import { templateFaults, type TemplateProblem } from '../merge/faults.ts'
import { suppliedFields, templateFields } from '../merge/fields.ts'
import { fieldsByName } from '../outline/field.ts'
import { patternNames } from '../text/pattern.ts'
import { definedTerms } from './terms.ts'

/** `fault`: cannot be published. `warning`: some record will come out wrong. `hint`: worth a look. */
export type CheckLevel = 'fault' | 'warning' | 'hint'

/** Something worth knowing about a template, with how grave it is. */
export interface Check extends TemplateProblem {
  readonly level: CheckLevel
}

const LEVELS: readonly CheckLevel[] = ['fault', 'warning', 'hint']

/**
 * Everything worth knowing about a template before it is used, worst first. `given` are the names a chosen source feeds
 * (keys of its mapping); null where none is chosen.
 */
export function checkTemplate(content: TemplateContent, given: ReadonlySet<string> | null): readonly Check[] {
  const faults = templateFaults(content).map((fault): Check => ({ ...fault, level: 'fault' }))
  const checks = [
    ...faults,
    ...conditionChecks(content),
    ...braceChecks(content),
    ...referenceChecks(content),
    ...supplyChecks(content, given),
    ...roleChecks(content),
    ...unusedChecks(content),
    ...termChecks(content),
  ]
  return checks.sort((a, b) => LEVELS.indexOf(a.level) - LEVELS.indexOf(b.level))
}

const at = (id: string, title: string) => ({ where: 'block' as const, id, title, from: null, to: null })

const spoken = (example: Example): string =>
  example.map(({ name, says }) => `${name} is ${says}`).join(' and ')

/** What has to hold, and what to fail, for a passage to stand. */
interface Guard {
  readonly id: string
  readonly holds: readonly Syntax[]
  readonly fails: readonly Syntax[]
}

/** A part with the conditional passages around it, and its own guard where it is one. */
interface Guarded {
  readonly part: TreePart
  readonly around: readonly Guard[]
  readonly own: Guard | null
  /** No alternative to it follows. */
  readonly last: boolean
}

const syntaxOf = (text: string | null): Syntax | null => {
  const compiled = text === null ? null : compileExpression(text)
  return compiled?.ok ? compiled.expression.syntax : null
}

/** Every part with what guards it. Inside repeats the item is unknown. */
function* guarded(parts: readonly TreePart[], around: readonly Guard[] = []): Generator<Guarded> {
  let before: Syntax[] = []
  for (const [i, part] of parts.entries()) {
    let own: Guard | null = null
    if (isPassage(part)) {
      if (!part.attrs.alternative) before = []
      const condition = syntaxOf(part.attrs.condition)
      if (condition || before.length)
        own = { id: part.attrs.id, holds: condition ? [condition] : [], fails: before }
      if (condition) before = [...before, condition]
    } else before = []
    const next = parts[i + 1]
    yield { part, around, own, last: !(next && isPassage(next) && next.attrs.alternative) }
    yield* guarded(inside(part), own ? [...around, own] : around)
  }
}

const domainsOf = (content: TemplateContent): Domains =>
  new Map(
    content.outline.flatMap((field) =>
      field.choices && field.type === 'choice' ? [[field.name, field.choices]] : [],
    ),
  )

function conditionChecks(content: TemplateContent): readonly Check[] {
  const domains = domainsOf(content)
  const checks: Check[] = []
  for (const { part, own: guard, around: guards, last } of guarded(content.document.content)) {
    if (!isPassage(part)) continue
    const { attrs } = part
    const [own] = guard?.holds ?? []
    const before = guard?.fails ?? []
    const around = guards.flatMap(({ holds }) => holds)
    const where = at(attrs.id, passageTitle(part))
    const say = (level: CheckLevel, message: string) => checks.push({ ...where, level, message })
    if (attrs.alternative && before.length === 0)
      say('warning', 'This is an alternative, but nothing before it has a condition; it never stands.')
    if (own && !together([own], [], domains).possible) say('warning', 'This condition can never hold.')
    else if (own && around.length && !together([...around, own], [], domains).possible)
      say('warning', 'This can never stand: its condition contradicts the one around it.')
    else if (own && !together(around, [own], domains).possible)
      say(
        'hint',
        around.length
          ? 'This condition always holds where the passage around it stands.'
          : 'This condition always holds.',
      )
    else if (own && before.length && !together([...around, own], before, domains).possible)
      say('warning', 'This alternative never stands: the ones before it take every case.')
    if (own && attrs.alternative)
      before.forEach((earlier, i) => {
        const overlap = together([...around, own, earlier], before.slice(0, i), domains)
        if (overlap.possible && overlap.example.length)
          say(
            'hint',
            `Overlaps with alternative ${i + 1} where ${spoken(overlap.example)}; the earlier one stands.`,
          )
      })
    if (attrs.alternative && own && last) {
      const uncovered = together(around, [...before, own], domains)
      if (uncovered.possible)
        say(
          'warning',
          `None of these alternatives stands where ${spoken(uncovered.example) || 'all their conditions fail'}.`,
        )
    }
  }
  return checks
}

/** Whether a passage under `open` can be absent where one under `here` stands. */
const mayBeAbsent = (open: Guard, here: readonly Guard[], domains: Domains): boolean => {
  if (here.some(({ id }) => id === open.id)) return false
  const [holds, fails] = [here.flatMap((guard) => guard.holds), here.flatMap((guard) => guard.fails)]
  return (
    open.holds.some((syntax) => together(holds, [...fails, syntax], domains).possible) ||
    open.fails.some((syntax) => together([...holds, syntax], fails, domains).possible)
  )
}

function referenceChecks(content: TemplateContent): readonly Check[] {
  const domains = domainsOf(content)
  const clauses = new Map<string, { title: string; guards: readonly Guard[] }>()
  const all = [...guarded(content.document.content)].map(({ part, around, own }) => ({
    part,
    guards: own ? [...around, own] : around,
  }))
  for (const { part, guards } of all)
    if (part.type === 'clause') clauses.set(part.attrs.id, { title: clauseTitle(part), guards })
  let passage = { id: '', title: '' }
  return all.flatMap(({ part, guards }): Check[] => {
    if (isPassage(part) && part.type !== 'phrase') passage = { id: part.attrs.id, title: passageTitle(part) }
    if (part.type !== 'reference' || part.attrs.fallback) return []
    const target = clauses.get(part.attrs.clause)
    return target?.guards.some((guard) => mayBeAbsent(guard, guards, domains))
      ? [
          {
            ...at(passage.id, passage.title),
            level: 'warning',
            message: `Refers to “${target.title}”, which may be absent. Say what stands there then, or refer only where it stands.`,
          },
        ]
      : []
  })
}

/** Words that look like a merge field and are none: they would be printed as they were typed. */
const BRACES = /\{\{[^{}]{0,60}(?:\}\})?|\}\}/

function braceChecks(content: TemplateContent): readonly Check[] {
  let passage = { id: '', title: '' }
  const found = new Map<string, Check>()
  for (const { part } of guarded(content.document.content)) {
    if (isPassage(part) && part.type !== 'phrase') passage = { id: part.attrs.id, title: passageTitle(part) }
    const braces = part.type === 'text' ? BRACES.exec(part.text)?.[0].trim() : undefined
    if (braces && !found.has(passage.id))
      found.set(passage.id, {
        ...at(passage.id, passage.title),
        level: 'warning',
        message: `“${braces}” is printed as it stands: it is no merge field. Type {{ and choose the field from the list.`,
      })
  }
  return [...found.values()]
}

function supplyChecks(content: TemplateContent, given: ReadonlySet<string> | null): readonly Check[] {
  if (!given) return []
  return suppliedFields(content).flatMap((field): Check[] => {
    const fed =
      field.type === 'list'
        ? [...given].some((key) => key.startsWith(`${field.name}[`))
        : given.has(field.name)
    return fed || field.default !== undefined
      ? []
      : [
          {
            where: 'field',
            id: field.name,
            title: field.label,
            level: field.required ? 'warning' : 'hint',
            message: `The chosen source gives nothing for “${field.label}”.`,
            from: null,
            to: null,
          },
        ]
  })
}

function roleChecks(content: TemplateContent): readonly Check[] {
  const places = placesByRole(content)
  return content.roles.flatMap((role): Check[] => {
    const at = { where: 'role' as const, id: role.key, title: role.label, from: null, to: null }
    const { signatures, blanks } = places.get(role.key) ?? { signatures: 0, blanks: 0 }
    // Of a notice they only receive it.
    if (content.sending.notice) return []
    if (signatures > 0) return []
    return [
      blanks === 0
        ? {
            ...at,
            level: 'warning',
            message: `“${role.label}” has nothing to sign or fill: put in its signature, or leave the role out.`,
          }
        : {
            ...at,
            level: 'hint',
            message: `“${role.label}” has no signature; nothing shows that they signed.`,
          },
    ]
  })
}

/** Names that anything of the template uses: merge fields, expressions, patterns, roles, blanks. */
export function usedNames(content: TemplateContent): ReadonlyMap<string, number> {
  const used = new Map<string, number>()
  const count = (name: string | null | undefined) => {
    if (name) used.set(name, (used.get(name) ?? 0) + 1)
  }
  const reads = (text: string | null | undefined) => {
    const compiled = text ? compileExpression(text) : null
    if (compiled?.ok) compiled.expression.reads.forEach(count)
  }
  for (const { part } of partsWithRepeat(content.document.content)) {
    if (part.type === 'mergeField') count(part.attrs.field)
    if (isPassage(part)) {
      reads(part.attrs.condition)
      count(part.attrs.repeat)
    }
    if (part.type === 'blank') {
      reads(part.attrs.condition)
      count(part.attrs.prefill)
    }
  }
  for (const field of content.outline) {
    reads(field.computed)
    for (const item of field.items ?? []) reads(item.computed)
    if (field.lineItems) {
      const { overallDiscount, ...items } = field.lineItems
      count(overallDiscount)
      for (const name of [items.price, items.quantity, items.discount, items.taxRate])
        if (name) count(`${field.name}.${name}`)
    }
  }
  for (const role of content.roles) {
    reads(role.condition)
    const { fill } = role
    if (fill.rule !== 'record') continue
    count(fill.list)
    for (const name of [fill.name, fill.email, fill.title, fill.company, fill.phone])
      count(name && fill.list ? `${fill.list}.${name}` : name)
  }
  const { agreementName, fileName, subject, message, copies } = content.sending
  for (const pattern of [
    agreementName,
    fileName,
    subject,
    message,
    ...(copies ?? []),
    content.page?.header ?? '',
    content.page?.footer ?? '',
  ])
    patternNames(pattern).forEach(count)
  return used
}

function unusedChecks(content: TemplateContent): readonly Check[] {
  const used = usedNames(content)
  const { outline } = templateFields(content)
  const names = fieldsByName(outline)
  return content.outline.flatMap((field): Check[] => {
    const isUsed =
      used.has(field.name) ||
      [...used.keys()].some(
        (name) =>
          name.startsWith(`${field.name}.`) ||
          (name.startsWith(`${field.name}_`) && field.lineItems !== undefined),
      )
    return isUsed || (field.type !== 'list' && !names.has(field.name))
      ? []
      : [
          {
            where: 'field',
            id: field.name,
            title: field.label,
            level: 'hint',
            message: `“${field.label}” is asked for but used nowhere.`,
            from: null,
            to: null,
          },
        ]
  })
}

function termChecks(content: TemplateContent): readonly Check[] {
  const { defined, undefined: missing } = definedTerms(content.document)
  return [
    ...defined
      .filter(({ uses }) => uses === 0)
      .map(({ term, block }): Check => ({
        ...at(block, term),
        level: 'hint',
        message: `The term “${term}” is defined but not used.`,
      })),
    ...missing.map(({ term, block, uses }): Check => ({
      ...at(block, term),
      level: 'hint',
      message: `“${term}” is used like a defined term (${uses} times) but is not defined.`,
    })),
  ]
}

/** Where a role signs, in signatures of everyone too, and what else it fills. */
export interface RolePlaces {
  readonly signatures: number
  readonly blanks: number
}

/** How many signatures and other blanks each role has in a template. */
export function placesByRole(content: TemplateContent): ReadonlyMap<string, RolePlaces> {
  const found = new Map<string, RolePlaces>()
  const count = (role: string, kind: keyof RolePlaces) => {
    const before = found.get(role) ?? { signatures: 0, blanks: 0 }
    found.set(role, { ...before, [kind]: before[kind] + 1 })
  }
  for (const { part } of partsWithRepeat(content.document.content))
    if (part.type === 'signatureBlock') part.attrs.roles.forEach((role) => count(role, 'signatures'))
    else if (part.type === 'blank')
      count(part.attrs.role, part.attrs.kind === 'signature' ? 'signatures' : 'blanks')
  return found
}
