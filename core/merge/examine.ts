import type { DocumentTree, MergeField, Part } from '../document/tree.ts'
import { inside, isBlock, isPassage, partsLeadingTo } from '../document/walk.ts'
import type { Context } from '../expression/value.ts'
import { isItems } from '../outline/field.ts'
import type { ItemData, RecordData } from '../outline/field.ts'
import { completeRecord, toValue } from '../outline/record.ts'
import { decide, isPlain, unrolled, wordingKey } from '../wording/wording.ts'
import type { Merged, MergeProblem } from './finished.ts'
import { peopleOfRecord } from './people.ts'
import type { ReadyTemplate } from './prepare.ts'
import { droppedReference, mayStayEmpty, missingValue, undecided } from './problems.ts'

/**
 * What merging a record would tell, without making the document: who signs, what is wrong, which wording. Half of the
 * work of merging; for checking thousands of rows of which the documents are made later.
 */
export function examine(
  template: ReadyTemplate,
  data: RecordData,
): Pick<Merged, 'people' | 'problems' | 'wording'> {
  const { data: complete, context } = completeRecord(template.outline, data)
  const { people, problems } = peopleOfRecord(template, context)
  const examining = new Examining(template, complete)
  const { content } = template
  examining.parts(content.document.content, { context, items: new Map() })
  const decisions = decide(template, context)
  return {
    people,
    problems: [...problems, ...examining.problems, ...examining.dropped(), ...undecided(template, decisions)],
    wording: wordingKey(decisions),
  }
}

/** Parts that merging may tell something of, or that others refer to, and those around them, by document. */
const telling = new WeakMap<DocumentTree, ReadonlySet<Part>>()

function tellingParts(document: DocumentTree): ReadonlySet<Part> {
  const known = telling.get(document)
  if (known) return known
  const found = partsLeadingTo(
    document.content,
    ({ type }) => type === 'mergeField' || type === 'reference' || type === 'clause',
  )
  telling.set(document, found)
  return found
}

/** Names that a part sees: the record's, and the items of the repeats around it. */
interface Scope {
  readonly context: Context
  readonly items: ReadonlyMap<string, { readonly data: ItemData; readonly index: number }>
}

class Examining {
  readonly problems: MergeProblem[] = []
  private readonly telling: ReadonlySet<Part>
  private readonly clauses = new Set<string>()
  private readonly references: { readonly clause: string; readonly passage: string }[] = []
  private passage = ''

  constructor(
    private readonly template: ReadyTemplate,
    private readonly data: RecordData,
  ) {
    this.telling = tellingParts(template.content.document)
  }

  /** Goes through the parts that stand, as merging does. */
  parts(parts: readonly Part[], scope: Scope): void {
    if (isPlain(parts)) {
      for (const part of parts) if (this.telling.has(part)) this.part(part, scope)
      return
    }
    for (const { part, scope: context, item, stands } of unrolled(
      parts,
      this.template.conditions,
      scope.context,
    ))
      if (stands === true && this.telling.has(part))
        this.part(part, item === null ? scope : this.itemScope(part, scope, context, item))
  }

  /** References without another wording to clauses that fell away. */
  dropped(): readonly MergeProblem[] {
    return this.references
      .filter(({ clause }) => !this.clauses.has(clause))
      .map(({ clause, passage }) => droppedReference(this.template.content.document, clause, passage))
  }

  private part(part: Part, scope: Scope): void {
    if (isBlock(part)) this.passage = part.attrs.id
    if (part.type === 'clause') this.clauses.add(part.attrs.id)
    if (part.type === 'mergeField') this.mergeField(part, scope)
    else if (part.type === 'reference') {
      const { clause, fallback } = part.attrs
      if (!fallback) this.references.push({ clause, passage: this.passage })
    } else this.parts(inside(part), scope)
  }

  private itemScope(part: Part, scope: Scope, context: Context, index: number): Scope {
    const list = isPassage(part) ? part.attrs.repeat! : ''
    const items = this.data[list]
    const data = isItems(items) ? (items[index] ?? {}) : {}
    return { context, items: new Map([...scope.items, [list, { data, index }]]) }
  }

  private mergeField({ attrs }: MergeField, { items }: Scope): void {
    const name = attrs.field
    const found = this.template.mergeable.get(name)
    if (!found) {
      this.problems.push(missingValue(name, this.passage, name))
      return
    }
    const { field, list } = found
    const item = list ? items.get(list.name) : undefined
    const value = list ? item?.data[field.name] : this.data[name]
    if (value !== undefined && toValue(field, value) !== null) return
    if (!mayStayEmpty(field, item?.index ?? null))
      this.problems.push(missingValue(name, this.passage, field.label))
  }
}
