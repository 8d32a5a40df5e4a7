import { columnsFor } from '../outline/field-kinds.ts'
import type { SignerRole } from '../document/template.ts'
import type { Language } from '../languages/language.ts'
import { suggestMapping, type Synonyms } from '../mapping/suggest.ts'
import { SIGNER_GROUP } from '../merge/fields.ts'
import type { Field, Outline } from '../outline/field.ts'
import { describeColumn } from '../sheet/columns.ts'
import { type AnsweredRecord, areAlike, type IntakeForm, type Question, type QuestionPage } from './form.ts'

/** What a form is made from: the values that its agreements need, who signs them, and what a customer's record has. */
export interface MadeFrom {
  readonly title: string
  readonly language: Language
  readonly outline: Outline
  /** The same, agreement by agreement. */
  readonly parts: readonly Outline[]
  readonly roles: readonly SignerRole[]
  readonly customer: Outline
  /** Words that mean the same in this organisation. */
  readonly own?: Synonyms
}

/** A form that asks for every value once, grouped as the outline groups them. */
export function formFrom(from: MadeFrom): IntakeForm {
  const { title, language, outline, roles, customer, own = [] } = from
  const given = outline.filter(({ computed }) => computed === undefined)
  const twins = twinsOf(from)
  const asked = given.filter(({ name }) => !twins.has(name))
  const questions = withOrder(
    asked.map((field) => withTwins(field, given, twins)),
    given,
  )
  return {
    title,
    introduction: '',
    thanks: '',
    language,
    pages: pagesOf(questions, roles),
    leftOut: [],
    email: addressOf(asked, roles),
    record: recordOf(asked, customer, own),
    afterwards: 'wait',
    inOther: {},
  }
}

/**
 * Fields of later agreements that are the same thing under another name: those that would fill the same field of a customer's
 * record, with the first that does.
 */
function twinsOf({ parts, customer, own = [] }: MadeFrom): ReadonlyMap<string, string> {
  const first = new Map<string, Outline[number]>()
  const twins = new Map<string, string>()
  for (const part of parts)
    for (const [field, name] of Object.entries(recordOf(part, customer, own)?.fields ?? {})) {
      // Two people are never taken for one because their addresses are called alike.
      if (groupOf(name) === SIGNER_GROUP) continue
      const here = part.find((each) => each.name === name)!
      const before = first.get(field)
      if (!before) first.set(field, here)
      else if (before.name !== name && areAlike(before.type, here.type)) twins.set(name, before.name)
    }
  return new Map([...twinsInGroups(parts.flat(), twins), ...twins])
}

/** Where two groups are about the same one, what is called the same in both is the same too. */
function* twinsInGroups(fields: Outline, twins: ReadonlyMap<string, string>): Generator<[string, string]> {
  const groups = new Map([...twins].map(([later, first]) => [groupOf(later), groupOf(first)]))
  const byName = new Map(fields.map((field) => [field.name, field]))
  for (const { name, type } of fields) {
    const first = groups.get(groupOf(name))
    const twin = first ? byName.get(`${first}${name.slice(groupOf(name).length)}`) : undefined
    if (twin && twin.name !== name && areAlike(twin.type, type)) yield [name, twin.name]
  }
}

function withTwins(field: Field, fields: Outline, twins: ReadonlyMap<string, string>): Question {
  const also = fields.filter(({ name }) => twins.get(name) === field.name)
  return {
    ...questionFor(field),
    required: [field, ...also].some((each) => each.required && each.default === undefined),
    also: also.map(({ name }) => name),
  }
}

/** A question for a field, as the outline has it. */
export const questionFor = ({
  name,
  label,
  help,
  example,
  required,
  default: otherwise,
}: Field): Question => ({
  id: name,
  kind: 'value',
  label,
  help: help ?? '',
  example: example ?? '',
  required: required && otherwise === undefined,
  default: otherwise ?? '',
  also: [],
  when: '',
})

/** What comes later, and what it may not come before, as forms call the two: in the last part of a name. */
const PAIRS = [
  ['start', 'end'],
  ['begin', 'end'],
  ['from', 'until'],
  ['from', 'to'],
  ['first', 'last'],
  ['least', 'most'],
] as const

/** Questions about a first and a last of one thing check that the last is not before the first. */
export function withOrder(questions: readonly Question[], outline: Outline): readonly Question[] {
  const types = new Map(outline.map(({ name, type }) => [name, type]))
  return questions.map((question, place) => {
    const before = questions.slice(0, place).find(({ id }) => {
      const type = types.get(id)
      return (
        (type === 'date' || type === 'number' || type === 'money') &&
        type === types.get(question.id) &&
        PAIRS.some(([first, last]) => question.id === swapped(id, first, last))
      )
    })
    return before ? { ...question, check: `${question.id} >= ${before.id}` } : question
  })
}

/** A name with one word of it for another; null where it has no such word. */
function swapped(name: string, word: string, other: string): string | null {
  const parts = name.split(/([._])/)
  const at = parts.lastIndexOf(word)
  return at < 0 ? null : parts.toSpliced(at, 1, other).join('')
}

/** Above this a page is tiring on a telephone. */
const MOST_ON_A_PAGE = 12

const groupOf = (id: string): string => (id.includes('.') ? id.split('.')[0]! : '')

/** The pages by the outline's groups, in its order; what stands in no group comes together at the end. */
function pagesOf(questions: readonly Question[], roles: readonly SignerRole[]): readonly QuestionPage[] {
  if (questions.length <= MOST_ON_A_PAGE) return [{ id: 'p1', title: '', questions }]
  const groups = new Map<string, Question[]>()
  for (const question of questions) {
    const [first, second = ''] = question.id.split('.')
    const key = groupOf(question.id) === SIGNER_GROUP ? `${first}.${second}` : groupOf(question.id)
    groups.set(key, [...(groups.get(key) ?? []), question])
  }
  const named = [...groups].sort(([a], [b]) => Number(a === '') - Number(b === ''))
  return named
    .flatMap(([key, own]) =>
      Array.from({ length: Math.ceil(own.length / MOST_ON_A_PAGE) }, (_, i) => ({
        title: i === 0 ? titleOf(key, roles) : '',
        questions: own.slice(i * MOST_ON_A_PAGE, (i + 1) * MOST_ON_A_PAGE),
      })),
    )
    .map((page, i) => ({ id: `p${i + 1}`, ...page }))
}

function titleOf(key: string, roles: readonly SignerRole[]): string {
  const role = key.startsWith(`${SIGNER_GROUP}.`)
    ? roles.find((each) => each.key === key.slice(SIGNER_GROUP.length + 1))
    : undefined
  const words = role?.label ?? key.replaceAll('_', ' ')
  return words.slice(0, 1).toUpperCase() + words.slice(1)
}

/** The address of the first who signs and is named by the data; else the first address there is. */
function addressOf(fields: Outline, roles: readonly SignerRole[]): string | null {
  const known = new Set(fields.filter(({ type }) => type === 'email').map(({ name }) => name))
  const ofRoles = roles.map(({ key, fill }) =>
    fill.rule === 'record' && !fill.list ? fill.email : fill.rule === 'ask' ? `signer.${key}.email` : null,
  )
  return [...ofRoles, ...known].find((name) => name && known.has(name)) ?? null
}

/** The record's fields that the questions would fill; null where not even its name is among them. */
export function recordOf(asked: Outline, fields: Outline, own: Synonyms = []): AnsweredRecord | null {
  const columns = asked
    .filter(({ type }) => type !== 'list')
    .map(({ name, type }) => ({ ...describeColumn(name, []), type: columnsFor(type)[0] ?? 'text' }))
  const found = suggestMapping(
    fields.filter(({ type }) => type !== 'list'),
    columns,
    { own },
  )
  return 'name' in found ? { kind: 'customer', key: 'name', fields: found } : null
}
