import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'
import canonicalize from 'canonicalize'

/** What an entry says besides who did what and when; plain, so that its hash is the same for ever. */
export type TrailDetail = Readonly<Record<string, string | number | boolean | null>>

/** What happened: who (`actor`: a name, or `Brevan` for what the machine did), what, when (ISO 8601, UTC). */
export interface TrailAct {
  readonly at: string
  readonly actor: string
  readonly act: string
  readonly detail: TrailDetail
}

/** An entry of a chain, with the hash of the one before it. */
export interface TrailEntry extends TrailAct {
  readonly agreement: string
  /** From 1, without gaps. */
  readonly seq: number
  /** Hash of the entry before; of the first entry, 64 zeros. */
  readonly previous: string
  /** SHA-256 in hex over the canonical JSON of all the other members. */
  readonly hash: string
}

/** SHA-256 in hex over the canonical JSON (RFC 8785) of a value: what a trail keeps of data, values and people. */
export const hashOf = (value: unknown): string => bytesToHex(sha256(utf8ToBytes(canonicalize(value)!)))

/** What stands for the hash before the first entry. */
export const NO_PREVIOUS = '0'.repeat(64)

const entryHash = ({ agreement, seq, at, actor, act, detail, previous }: Omit<TrailEntry, 'hash'>): string =>
  bytesToHex(sha256(utf8ToBytes(canonicalize({ agreement, seq, at, actor, act, detail, previous })!)))

/** The next entry of a trail whose last entry is given (null: the first). */
export function appendEntry(
  agreement: string,
  last: Pick<TrailEntry, 'seq' | 'hash'> | null,
  act: TrailAct,
): TrailEntry {
  const entry = { agreement, seq: (last?.seq ?? 0) + 1, ...act, previous: last?.hash ?? NO_PREVIOUS }
  return { ...entry, hash: entryHash(entry) }
}

/** Whether a chain is intact, or the first entry that is not, and why. */
export type Verified =
  | { readonly ok: true; readonly entries: number; readonly head: string }
  | { readonly ok: false; readonly seq: number; readonly problem: string }

/** Checks a whole trail in its order: numbering, the chain, and every entry's own hash. */
export function verifyTrail(entries: readonly TrailEntry[]): Verified {
  let previous = NO_PREVIOUS
  for (const [i, entry] of entries.entries()) {
    if (entry.seq !== i + 1) return { ok: false, seq: i + 1, problem: 'An entry is missing.' }
    if (entry.previous !== previous)
      return { ok: false, seq: entry.seq, problem: 'It does not follow from the entry before.' }
    if (entryHash(entry) !== entry.hash)
      return { ok: false, seq: entry.seq, problem: 'It was changed after it was written.' }
    previous = entry.hash
  }
  return { ok: true, entries: entries.length, head: previous }
}
