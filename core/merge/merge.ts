import type { SignerRole } from '../document/template.ts'
import type { Block, Clause, Inline } from '../document/tree.ts'
import { clauseTitle } from '../document/walk.ts'
import type { Context, Value } from '../expression/value.ts'
import { isEmail } from '../outline/coerce.ts'
import type { RecordData } from '../outline/field.ts'
import { completeRecord, toValue } from '../outline/record.ts'
import { defaultFormat, formatValue } from '../text/format.ts'
import { fillPattern } from '../text/pattern.ts'
import { decide, wordingKey } from '../wording/wording.ts'
import type { FinishedBlank, FinishedBlock, Merged, MergeProblem, Origin, Person, Run } from './finished.ts'
import type { ReadyTemplate } from './prepare.ts'

/** Merges one record. `number` is the agreement's number once it has one. */
export function merge(template: ReadyTemplate, data: RecordData, number: string | null): Merged {
  const { data: complete, context } = completeRecord(template.outline, data)
  return new Merging(template, complete, context).run(number)
}

/** `{{name}}` patterns of a template for one record; `{{number}}` is the agreement's number. */
export function fill(
  template: ReadyTemplate,
  data: RecordData,
  pattern: string,
  number: string | null,
): string {
  const { data: complete } = completeRecord(template.outline, data)
  return fillPattern(pattern, (name) => {
    if (name === 'number') return number
    const field = template.fields.get(name)
    const value = complete[name]
    return field && value !== undefined
      ? formatValue(field, toValue(field, value), null, template.content.language)
      : null
  })
}

class Merging {
  private readonly origins: Origin[] = []
  private readonly problems: MergeProblem[] = []
  private readonly decisions: ReadonlyMap<string, boolean | null>
  private readonly people: readonly Person[]
  private clause: Clause | null = null

  constructor(
    private readonly template: ReadyTemplate,
    private readonly data: RecordData,
    context: Context,
  ) {
    this.decisions = decide(template, context)
    this.people = template.content.roles.map((role) => this.person(role))
  }

  run(number: string | null): Merged {
    const { content } = this.template
    const blocks = this.blocks(content.document.content, [])
    for (const block of this.template.conditional)
      if (this.decisions.get(block.attrs.id) === null)
        this.problem(
          null,
          block.attrs.id,
          `The condition “${block.attrs.condition}” cannot be decided: a value it needs is missing.`,
        )
    const initials = content.roles
      .filter((role) => content.initialsOnEveryPage.includes(role.key))
      .sort((a, b) => a.order - b.order)
      .map(({ key, label, shape }) => ({ role: key, label, shape }))
    return {
      document: { title: content.title, language: content.language, number, blocks, initials },
      origins: this.origins,
      people: this.people,
      problems: this.problems,
      wording: wordingKey(this.decisions),
    }
  }

  private problem(field: string | null, block: string | null, message: string) {
    this.problems.push({ field, block, message })
  }

  private value(name: string): Value {
    const field = this.template.fields.get(name)
    const value = this.data[name]
    return field && value !== undefined ? toValue(field, value) : null
  }

  private person(role: SignerRole): Person {
    const { fill, key, label, order } = role
    if (fill.rule === 'standing person')
      return { role: key, label, order, name: fill.name, email: fill.email, title: fill.title }
    const text = (name: string | null) => String((name !== null ? this.data[name] : '') ?? '')
    const person = {
      role: key,
      label,
      order,
      name: text(fill.name),
      email: text(fill.email),
      title: text(fill.title),
    }
    if (!person.name) this.problem(fill.name, null, `${label}: nobody is named to sign.`)
    if (!isEmail(person.email))
      this.problem(fill.email, null, `${label}: there is no mail address to send to.`)
    return person
  }

  /** `above` is the number of the clause around: [2, 1] inside 2.1. */
  private blocks(blocks: readonly Block[], above: readonly number[]): FinishedBlock[] {
    let count = 0
    return blocks.flatMap((block): FinishedBlock[] => {
      if (block.attrs.condition !== null && this.decisions.get(block.attrs.id) !== true) return []
      if (block.type !== 'clause') return [this.block(block, above)]
      const place = [...above, ++count]
      const around = this.clause
      this.clause = block
      const inside = this.blocks(block.content, place)
      this.clause = around
      return [
        {
          kind: 'clause',
          id: block.attrs.id,
          number: clauseNumber(place),
          depth: place.length,
          blocks: inside,
        },
      ]
    })
  }

  private block(block: Exclude<Block, Clause>, above: readonly number[]): FinishedBlock {
    switch (block.type) {
      case 'heading':
        return { kind: 'heading', level: block.attrs.level, runs: this.runs(block.content, block.attrs.id) }
      case 'paragraph':
        return { kind: 'paragraph', runs: this.runs(block.content, block.attrs.id) }
      case 'bulletList':
        return { kind: 'list', items: block.content.map((item) => this.blocks(item.content, above)) }
      case 'pageBreak':
        return { kind: 'page break' }
      case 'signatureBlock':
        return {
          kind: 'signatures',
          parties: block.attrs.roles.flatMap((key) => {
            const role = this.template.content.roles.find((candidate) => candidate.key === key)
            const person = this.people.find((candidate) => candidate.role === key)
            if (!role || !person) return []
            const blank = (kind: 'signature' | 'date', label: string) =>
              finishedBlank(role, { id: `${block.attrs.id}.${key}.${kind}`, kind, label, required: true })
            return [
              {
                role: key,
                label: role.label,
                name: person.name,
                title: person.title,
                signature: blank('signature', 'Signature'),
                date: blank('date', 'Date signed'),
              },
            ]
          }),
        }
    }
  }

  private runs(content: readonly Inline[] | undefined, block: string): Run[] {
    return (content ?? []).map((part): Run => {
      if (part.type === 'hardBreak') return { kind: 'break' }
      if (part.type === 'blank') {
        const role = this.template.content.roles.find((candidate) => candidate.key === part.attrs.role)!
        return { kind: 'blank', blank: finishedBlank(role, part.attrs) }
      }
      const has = (mark: 'bold' | 'italic') => part.marks?.some(({ type }) => type === mark) ?? false
      const style = { bold: has('bold'), italic: has('italic') }
      if (part.type === 'text') return { kind: 'text', text: part.text, ...style, origin: null, gap: false }
      return { kind: 'text', ...style, ...this.merged(part.attrs.field, part.attrs.format, block) }
    })
  }

  private merged(
    name: string,
    format: string | null,
    block: string,
  ): { text: string; origin: number; gap: boolean } {
    const field = this.template.fields.get(name)!
    const origin = this.origins.push({
      field: name,
      label: field.label,
      format: format ?? defaultFormat(field.type),
      formula: field.computed ?? null,
      clause: this.clause && clauseTitle(this.clause),
      condition: this.clause?.attrs.condition ?? null,
    })
    const text = formatValue(field, this.value(name), format, this.template.content.language)
    if (text === null) this.problem(name, block, `“${field.label}” has no value here.`)
    return { text: text ?? `[${field.label}]`, origin: origin - 1, gap: text === null }
  }
}

function finishedBlank(
  role: SignerRole,
  blank: Pick<FinishedBlank, 'id' | 'kind' | 'label' | 'required'>,
): FinishedBlank {
  const { id, kind, label, required } = blank
  return {
    id,
    kind,
    role: role.key,
    shape: role.shape,
    letter: role.label.slice(0, 1).toUpperCase(),
    label,
    required,
  }
}

/** 2 · 2.1 · (a): the third level is lettered, after the manner of contracts. */
export function clauseNumber(place: readonly number[]): string {
  if (place.length <= 2) return place.join('.')
  const letter = (n: number): string =>
    (n > 26 ? letter(Math.floor((n - 1) / 26)) : '') + String.fromCharCode(97 + ((n - 1) % 26))
  return `(${letter(place.at(-1)!)})`
}
