import { folded } from './phrases.ts'
import type { PageRead } from './page-read.ts'

// A form is known again by its words. Of all runs of four words the smallest hashes are kept (Broder, 1997): two files share as
// many of them as they share words, whatever their length, and a letter that a scan got wrong costs four runs and no more.

/** Runs of words kept of a file; words of a run. */
const KEPT = 400
const RUN = 3

/** A file's fingerprint: hashes of its runs of words, smallest first. */
export type Fingerprint = readonly number[]

/** FNV-1a, 32 bits. */
const hash = (text: string): number => {
  let value = 0x811c9dc5
  for (let i = 0; i < text.length; i++) {
    value ^= text.charCodeAt(i)
    value = Math.imul(value, 0x01000193)
  }
  // Its last bits are spread once more: short texts differ in few.
  value ^= value >>> 15
  return Math.imul(value, 0x2c1b3c6d) >>> 0
}

/** What pages say, as a sample of hashes of runs of their words, in ascending order. */
export function fingerprintOf(pages: readonly Pick<PageRead, 'words'>[]): Fingerprint {
  const words = pages
    .flatMap(({ words: own }) => own.map(({ text }) => folded(text)))
    // What is filled in, counted or dotted is no part of what a form says.
    .filter((word) => /\p{L}{2}/u.test(word))
  const runs = new Set<number>()
  for (let i = 0; i + RUN <= words.length; i++) runs.add(hash(words.slice(i, i + RUN).join(' ')))
  return [...runs].sort((a, b) => a - b).slice(0, KEPT)
}

/**
 * How much of the smaller of two files stands in the other, 0 to 1: a form that has grown still holds all it said. Files of a
 * few words are like nothing.
 */
export function alike(a: Fingerprint, b: Fingerprint): number {
  const least = Math.min(a.length, b.length)
  if (least < FEW) return 0
  // Both are compared up to where both reach: beyond, one kept nothing because it had enough.
  const reach = Math.min(a.length < KEPT ? Infinity : a.at(-1)!, b.length < KEPT ? Infinity : b.at(-1)!)
  const [left, right] = [a.filter((each) => each <= reach), new Set(b.filter((each) => each <= reach))]
  const shared = left.filter((each) => right.has(each)).length
  return shared / Math.max(1, Math.min(left.length, right.size))
}

/** Runs of words without which nothing can be told. */
const FEW = 12
/** From here on two files are versions of one form. */
export const SAME_FORM = 0.5
