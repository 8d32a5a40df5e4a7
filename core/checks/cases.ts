import { compareWords, type WordChange } from '../compare/words.ts'
import { merge } from '../merge/merge.ts'
import type { ReadyTemplate } from '../merge/prepare.ts'
import { finishedText } from '../merge/text.ts'
import type { RecordData } from '../outline/field.ts'

/** A sample record with the wording it must give, paragraph by paragraph. */
export interface SavedCase {
  readonly name: string
  readonly data: RecordData
  readonly expected: readonly string[]
}

/** What became of a saved case. */
export interface CaseResult {
  readonly name: string
  readonly passed: boolean
  /** What the template gives now. */
  readonly actual: readonly string[]
  /** Where it failed: the difference, word by word. */
  readonly words: readonly WordChange[]
}

/** Runs a case against a template. */
export function runCase(template: ReadyTemplate, saved: SavedCase): CaseResult {
  const actual = finishedText(merge(template, saved.data, null).document)
  const [before, after] = [saved.expected.join('\n'), actual.join('\n')]
  const passed = before === after
  return { name: saved.name, passed, actual, words: passed ? [] : compareWords(before, after) }
}
