import type { Outline, RecordData } from '../outline/field.ts'
import { examine } from '../merge/examine.ts'
import { fill as fillOne } from '../merge/fill.ts'
import { merge } from '../merge/merge.ts'
import type { Merged, MergeProblem, Person } from '../merge/finished.ts'
import { suppliedFields } from '../merge/fields.ts'
import type { ReadyTemplate } from '../merge/prepare.ts'
import { keyOfPassages, passagesOf } from '../wording/key.ts'

/**
 * What one agreement is made of: one template, or the templates of a packet in their order. All of them read one record,
 * in which each value stands once; what the agreement is called and how it is sent comes from the first.
 */
export interface Bundle {
  readonly parts: readonly [ReadyTemplate, ...ReadyTemplate[]]
}

/** All documents of a packet merged with one record. */
export interface MergedBundle {
  readonly documents: readonly Merged[]
  /** Each role once, as the first document that has it names its person. */
  readonly people: readonly Person[]
  readonly problems: readonly MergeProblem[]
  /** Key of the wording of all documents together: passage ids, in packets with the document's place before them. */
  readonly wording: string
}

/** The fields that a source or a prompt has to give, each name once; needed where any of the templates needs it. */
export function bundleFields({ parts }: Bundle): Outline {
  const fields = new Map<string, Outline[number]>()
  for (const { content } of parts)
    for (const field of suppliedFields(content)) {
      const before = fields.get(field.name)
      fields.set(field.name, before ? { ...before, required: before.required || field.required } : field)
    }
  return [...fields.values()]
}

/** Names that two templates use for values of different kinds: such templates cannot be one packet. */
export function bundleConflicts({ parts }: Bundle): readonly string[] {
  const types = new Map<string, { readonly type: string; readonly title: string }>()
  const conflicts: string[] = []
  for (const { content } of parts)
    for (const { name, type, label } of suppliedFields(content)) {
      const before = types.get(name)
      if (!before) types.set(name, { type, title: content.title })
      else if (before.type !== type)
        conflicts.push(`“${label}” is ${before.type} in ${before.title} and ${type} in ${content.title}.`)
    }
  return conflicts
}

/** Id of a passage within a bundle, as wordings name it. */
export const passageKey = ({ parts }: Bundle, part: number, id: string): string =>
  parts.length > 1 ? `${part + 1}/${id}` : id

/** Merges one record into every document. */
export function mergeBundle(bundle: Bundle, data: RecordData, number: string | null): MergedBundle {
  const documents = bundle.parts.map((ready) => merge(ready, data, number))
  return { documents, ...together(bundle, documents) }
}

/** What merging a record would tell of all documents, without making them. */
export const examineBundle = (bundle: Bundle, data: RecordData): Omit<MergedBundle, 'documents'> =>
  together(
    bundle,
    bundle.parts.map((ready) => examine(ready, data)),
  )

function together(
  bundle: Bundle,
  documents: readonly ReturnType<typeof examine>[],
): Omit<MergedBundle, 'documents'> {
  const people = new Map<string, Person>()
  for (const person of documents.flatMap((document) => document.people))
    if (!people.has(person.role)) people.set(person.role, person)
  const problems = new Map<string, MergeProblem>()
  for (const problem of documents.flatMap((document) => document.problems))
    if (!problems.has(problem.message)) problems.set(problem.message, problem)
  return {
    people: [...people.values()],
    problems: [...problems.values()],
    wording: keyOfPassages(
      documents.flatMap(({ wording }, part) => passagesOf(wording).map((id) => passageKey(bundle, part, id))),
    ),
  }
}

/** A pattern filled by the first template: what an agreement is called and how it is sent is its matter. */
export const fillBundle = (
  { parts }: Bundle,
  data: RecordData,
  pattern: string,
  number: string | null,
): string => fillOne(parts[0], data, pattern, number)
