import { RULE_ORIGINS } from '../agreement/origin.ts'
import type { NameTypes } from '../expression/check.ts'
import type { InWords } from '../expression/explain.ts'
import { isList, toText, type TypeName, type Value } from '../expression/values/value.ts'
import { type Field, fieldsAndLists, nameTypes, type Outline } from '../outline/field.ts'
import { formatValue } from '../text/format.ts'

/** A template as rules see it: all its fields, those that come by themselves included. */
export interface TemplateNames {
  readonly title: string
  readonly fields: Outline
}

/** What rules may ask besides the record. These names mean the same in every table and come before a template's own. */
export const FACTS: Outline = [
  fact('agreement.template', 'Template', 'text'),
  fact('agreement.language', 'Language of the agreement', 'text'),
  fact('agreement.documents', 'Number of documents', 'number'),
  fact('agreement.changed_by_hand', 'Wording changed by hand', 'yes/no'),
  fact('agreement.changed_clauses', 'Clauses changed by hand', 'list'),
  fact('agreement.conditional_clauses', 'Conditional clauses that stand', 'list'),
  { ...fact('run.from', 'Made from', 'choice'), choices: [...RULE_ORIGINS] },
  fact('run.rows', 'Rows of the run', 'number'),
  fact('author.name', 'Author', 'text'),
  fact('author.post', 'Post of the author', 'text'),
  fact('author.teams', 'Teams of the author', 'list'),
]

function fact(name: string, label: string, type: Field['type']): Field {
  return { name, label, type, required: false }
}

/** Facts about the words of an agreement: what was approved with one of them was approved with these words. */
export const WORDING_FACTS: ReadonlySet<string> = new Set([
  'agreement.changed_by_hand',
  'agreement.changed_clauses',
])

/** What a table's expressions may read, and what each name means. */
export interface RuleNames {
  readonly types: NameTypes
  readonly fields: ReadonlyMap<string, Field>
  /** Titles of templates in scope that do not have a name, where some have it. */
  readonly lacking: ReadonlyMap<string, readonly string[]>
  /** Names that mean different things in two templates, with what is wrong. */
  readonly clashes: ReadonlyMap<string, string>
  readonly words: InWords
}

/**
 * The names of a table over the templates it is about. A name means one thing: facts are facts everywhere, a field has one type
 * in all templates that have it, and the choices of all of them.
 */
export function namesFor(templates: readonly TemplateNames[]): RuleNames {
  const types = new Map<string, TypeName | 'any'>()
  const fields = new Map<string, Field>()
  const having = new Map<string, string[]>()
  const clashes = new Map<string, string>()
  for (const { title, fields: own } of templates) {
    for (const [name, type] of nameTypes(own)) {
      const before = types.get(name)
      const others = having.get(name) ?? []
      if (before !== undefined && before !== type)
        clashes.set(name, `“${name}” is ${before} in ${others[0]!} and ${type} in ${title}.`)
      types.set(name, before ?? type)
      having.set(name, [...others, title])
    }
    for (const [name, field] of fieldsAndLists(own)) fields.set(name, joined(fields.get(name), field))
  }
  const titles = templates.map(({ title }) => title)
  const lacking = new Map(
    [...having]
      .filter(([, those]) => those.length < titles.length)
      .map(([name, those]) => [name, titles.filter((title) => !those.includes(title))]),
  )
  for (const [name, type] of nameTypes(FACTS)) {
    types.set(name, type)
    clashes.delete(name)
    lacking.delete(name)
  }
  for (const each of FACTS) fields.set(each.name, each)
  if (titles.length)
    fields.set('agreement.template', {
      ...fields.get('agreement.template')!,
      type: 'choice',
      choices: titles,
    })
  return { types, fields, lacking, clashes, words: wordsOf(fields) }
}

function joined(before: Field | undefined, field: Field): Field {
  if (!before || before.type !== 'choice' || field.type !== 'choice') return before ?? field
  return { ...before, choices: [...new Set([...(before.choices ?? []), ...(field.choices ?? [])])] }
}

/** Values as a reader of English expects them, each in its field's usual format. */
const wordsOf = (fields: ReadonlyMap<string, Field>): InWords => ({
  label: (name) => fields.get(name)?.label || name,
  show: (value: Value, name) => {
    if (value === null) return 'empty'
    const field = name === null ? undefined : fields.get(name)
    if (field && !isList(value)) return formatValue(field, value, null, 'en') ?? 'empty'
    if (typeof value === 'boolean') return value ? 'yes' : 'no'
    if (isList(value)) return value.length ? value.map(toText).join(', ') : 'none'
    return toText(value)
  },
})
