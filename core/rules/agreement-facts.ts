import type { RuleOrigin } from '../agreement/origin.ts'
import { sameContent } from '../compare/equal.ts'
import type { Body, Clause, FormPage, Placement } from '../document/tree.ts'
import { allParts, passageTitle } from '../document/walk.ts'
import { inWordsOf } from '../merge/fill.ts'
import type { InWords } from '../expression/explain.ts'
import { number, type Value } from '../expression/values/value.ts'
import { completeRecord } from '../outline/record.ts'
import type { RecordData } from '../outline/field.ts'
import { type Bundle, passageKey } from '../packet/bundle.ts'
import { passagesOf } from '../wording/key.ts'
import { perObject } from '../per-object.ts'
import type { Directory } from '../approvers/directory.ts'
import { FACTS, namesFor } from './names.ts'
import type { TableInForce } from './table.ts'
import type { Decided } from './decide.ts'

/** What rules may ask of an agreement besides its record. */
export interface AgreementFacts {
  readonly author: { readonly name: string; readonly post: string; readonly teams: readonly string[] }
  /** Where it comes from, and how many rows that has: 1 where it is no run. */
  readonly from: RuleOrigin
  readonly rows: number
  readonly language: string | null
  /** Clauses whose words somebody changed for this one customer; null: nothing was changed by hand. */
  readonly changedClauses: readonly string[] | null
}

/** What agreements made together are routed by. */
export interface AgreementRules {
  readonly tables: readonly TableInForce[]
  readonly directory: Directory
  readonly facts: Omit<AgreementFacts, 'language' | 'changedClauses'>
}

/** Titles of the clauses in which two wordings of one document differ, of pages what is placed on them: changed, added, or gone. */
export function changedClauses(before: Body, after: Body): readonly string[] {
  const clauses = (document: Body): ReadonlyMap<string, Clause | FormPage | Placement> =>
    new Map(
      [...allParts(document.content)].flatMap((part): [string, Clause | FormPage | Placement][] =>
        part.type === 'clause' || part.type === 'placement'
          ? [[part.attrs.id, part]]
          : part.type === 'page'
            ? [[part.attrs.id, { ...part, content: [] }]]
            : [],
      ),
    )
  const [old, now] = [clauses(before), clauses(after)]
  const titles: string[] = []
  for (const [id, clause] of now) if (!sameContent(clause, old.get(id))) titles.push(passageTitle(clause))
  for (const [id, clause] of old) if (!now.has(id)) titles.push(passageTitle(clause))
  return [...new Set(titles)]
}

/** Titles of the conditional clauses that a wording keeps. */
export function standingClauses(bundle: Bundle, wording: string): readonly string[] {
  const byWording = standing(bundle)
  const known = byWording.get(wording)
  if (known) return known
  const titles = titlesKept(bundle, wording)
  byWording.set(wording, titles)
  return titles
}

/** Hundreds of agreements have one wording. */
const standing = perObject((_: Bundle) => new Map<string, readonly string[]>())

function titlesKept(bundle: Bundle, wording: string): readonly string[] {
  const kept = new Set(passagesOf(wording))
  return bundle.parts.flatMap(({ conditional }, part) =>
    conditional
      .filter(({ attrs }) => kept.has(passageKey(bundle, part, attrs.id)))
      .map((passage) => passageTitle(passage)),
  )
}

const FACT_NAMES: ReadonlySet<string> = new Set(FACTS.map(({ name }) => name))
const factWords: InWords = namesFor([]).words

/** An agreement as rules see it: the values of all its documents, each name once, and the facts about it. */
export function decidedOf(bundle: Bundle, data: RecordData, facts: AgreementFacts, wording: string): Decided {
  const [first, ...others] = bundle.parts
  const context = new Map<string, Value>(completeRecord(first.outline, data).context)
  for (const { outline } of others)
    for (const [name, value] of completeRecord(outline, data).context)
      if (!context.has(name)) context.set(name, value)
  for (const [group, members] of Object.entries(factsOf(bundle, facts, wording)))
    context.set(group, new Map(Object.entries(members)))
  const words = bundle.parts.map(inWordsOf)
  const partOf = (name: string) =>
    bundle.parts.findIndex(({ fields, mergeable }) => fields.has(name) || mergeable.has(name))
  return {
    context,
    knows: (name) => FACT_NAMES.has(name) || partOf(name) >= 0 || partOf(name.split('.')[0]!) >= 0,
    words: {
      label: (name) =>
        FACT_NAMES.has(name) ? factWords.label(name) : words[Math.max(0, partOf(name))]!.label(name),
      show: (value, name) =>
        name !== null && !FACT_NAMES.has(name) && partOf(name) >= 0
          ? words[partOf(name)]!.show(value, name)
          : factWords.show(value, name),
    },
  }
}

const factsOf = (
  bundle: Bundle,
  facts: AgreementFacts,
  wording: string,
): Readonly<Record<string, Readonly<Record<string, Value>>>> => ({
  agreement: {
    template: bundle.parts[0].content.title,
    language: facts.language ?? bundle.parts[0].content.language,
    documents: number(bundle.parts.length),
    changed_by_hand: facts.changedClauses !== null,
    changed_clauses: facts.changedClauses ?? [],
    conditional_clauses: standingClauses(bundle, wording),
  },
  run: { from: facts.from, rows: number(facts.rows) },
  author: { name: facts.author.name, post: facts.author.post, teams: facts.author.teams },
})
