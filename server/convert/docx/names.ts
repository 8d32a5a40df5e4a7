import { FIELD_TYPES, type FieldType, formatsOf } from '#core/outline/field-kinds.ts'
import type { Block } from '#core/document/tree.ts'
import { allParts, isPassage } from '#core/document/walk.ts'
import { compileExpression } from '#core/expression/compile.ts'
import { type Field, fieldNameProblem } from '#core/outline/field.ts'
import { guessedField } from '#core/outline/guess.ts'

/** A field name made of what a document calls it: "Buyer Name" becomes Buyer_Name. Dots stay, for groups. */
export function fieldName(text: string): string {
  const parts = text
    .trim()
    .split('.')
    .map((part) =>
      part
        .trim()
        .replace(/[^\p{L}\p{N}_]+/gu, '_')
        .slice(0, 120)
        // eslint-disable-next-line regexp/no-super-linear-move -- of 120 characters
        .replace(/^_+|_+$/g, ''),
    )
    .filter((part) => part !== '')
    .map((part) => (/^\p{N}/u.test(part) ? `n${part}` : part))
  const name = parts.join('.') || 'field'
  return fieldNameProblem(name) ? `${name}_` : name
}

/** What a document says of a name besides using it: how it is written there, and types its use asks for. */
export interface NameClues {
  readonly labels: ReadonlyMap<string, string>
  readonly hints: ReadonlyMap<string, ReadonlySet<FieldType>>
  /** What its content controls say. */
  readonly clues?: ReadonlyMap<string, Partial<Field>>
}

/** A data outline for the names that a document uses in merge fields, conditions and repeats. */
export function guessedOutline(
  blocks: readonly Block[],
  { labels, hints, clues }: NameClues,
): readonly Field[] {
  const names = new Map<string, Field>()
  const repeats = new Set<string>()
  const add = (name: string) => {
    if (!names.has(name))
      names.set(name, {
        ...guessedField(name, labels.get(name) ?? name, hints.get(name) ?? new Set()),
        ...clues?.get(name),
      })
  }
  for (const part of allParts(blocks)) {
    if (part.type === 'mergeField') add(part.attrs.field)
    if (!isPassage(part)) continue
    if (part.attrs.repeat) repeats.add(part.attrs.repeat)
    const compiled = part.attrs.condition === null ? null : compileExpression(part.attrs.condition)
    // A condition that is not sound is told by the checks of the studio.
    if (compiled?.ok) compiled.expression.reads.filter((name) => !name.startsWith('item.')).forEach(add)
  }
  const lists = [...repeats].map((list): Field => ({
    name: list,
    label: list,
    type: 'list',
    required: false,
    items: [...names.values()]
      .filter(({ name }) => name.startsWith(`${list}.`))
      .map((field) => ({ ...field, name: field.name.slice(list.length + 1) })),
  }))
  const inLists = (name: string) => [...repeats].some((list) => name.startsWith(`${list}.`))
  return [...[...names.values()].filter(({ name }) => !inLists(name)), ...lists]
}

const FORMATS: ReadonlySet<string> = new Set(FIELD_TYPES.flatMap(formatsOf))

/** A display format of ours by its name; null for any other. */
export const knownFormat = (text: string): string | null => (FORMATS.has(text) ? text : null)
