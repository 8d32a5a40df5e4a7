import type { Body, MergeField, TreePart } from '../document/tree.ts'
import { inside, isBlock, partsLeadingTo } from '../document/walk.ts'
import { RECORD_STEPS, withBudget } from '../expression/values/budget.ts'
import type { RecordData } from '../outline/field.ts'
import { completeRecord, toValue } from '../outline/record.ts'
import { perObject } from '../per-object.ts'
import { decide, wordingKey } from '../wording/wording.ts'
import type { Merged, MergeProblem } from './finished.ts'
import { peopleOfRecord } from './people.ts'
import type { ReadyTemplate } from './prepare.ts'
import { droppedReference, mayStayEmpty, missingValue, undecided } from './problems.ts'
import { type Scope, StandingRecord } from './standing.ts'

/**
 * What merging a record would tell, without making the document: who signs, what is wrong, which wording. Half of the
 * work of merging; for checking thousands of rows of which the documents are made later.
 */
export const examine = (template: ReadyTemplate, data: RecordData): Examined =>
  withBudget(RECORD_STEPS, () => examined(template, data))

type Examined = Pick<Merged, 'people' | 'problems' | 'wording'>

function examined(template: ReadyTemplate, data: RecordData): Examined {
  const { data: complete, context } = completeRecord(template.outline, data)
  const { people, problems } = peopleOfRecord(template, context)
  const examining = new Examining(template.content.document, new StandingRecord(template, complete, context))
  const decisions = decide(template, context)
  return {
    people,
    problems: [...problems, ...examining.problems, ...examining.dropped(), ...undecided(template, decisions)],
    wording: wordingKey(decisions),
  }
}

/** Parts that merging may tell something of, or that others refer to, and those around them. */
const tellingParts = perObject((document: Body) =>
  partsLeadingTo(
    document.content,
    ({ type }) => type === 'mergeField' || type === 'reference' || type === 'clause',
  ),
)

class Examining {
  readonly problems: MergeProblem[] = []
  private readonly telling: ReadonlySet<TreePart>
  private readonly clauses = new Set<string>()
  /** Fields outside of lists that were looked at and have their value. */
  private readonly there = new Set<string>()
  private readonly references: { readonly clause: string; readonly passage: string }[] = []
  private passage = ''

  constructor(
    private readonly document: Body,
    private readonly record: StandingRecord,
  ) {
    this.telling = tellingParts(document)
    this.parts(document.content, record.top)
  }

  /** References without another wording to clauses that fell away. */
  dropped(): readonly MergeProblem[] {
    return this.references
      .filter(({ clause }) => !this.clauses.has(clause))
      .map(({ clause, passage }) => droppedReference(this.document, clause, passage))
  }

  private parts(parts: readonly TreePart[], scope: Scope): void {
    this.record.standing(parts, scope, (part, inner) => {
      if (this.telling.has(part)) this.part(part, inner)
    })
  }

  private part(part: TreePart, scope: Scope): void {
    if (isBlock(part)) this.passage = part.attrs.id
    if (part.type === 'clause') this.clauses.add(part.attrs.id)
    if (part.type === 'mergeField') this.mergeField(part, scope)
    else if (part.type === 'reference') {
      const { clause, fallback } = part.attrs
      if (!fallback) this.references.push({ clause, passage: this.passage })
    } else this.parts(inside(part), scope)
  }

  private mergeField({ attrs: { field: name } }: MergeField, scope: Scope): void {
    if (this.there.has(name)) return
    const found = this.record.valueOf(name, scope)
    if (found?.value !== undefined && toValue(found.field, found.value) !== null) {
      if (found.item === null) this.there.add(name)
      return
    }
    if (!found || !mayStayEmpty(found.field, found.item))
      this.problems.push(missingValue(name, this.passage, found?.field.label ?? name))
  }
}
