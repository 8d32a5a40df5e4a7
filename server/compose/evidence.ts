import type { TrailEntry } from '#core/trail/trail.ts'

/** What the evidence pages show. Times are ISO 8601 in UTC. */
export interface EvidenceData {
  readonly title: string
  readonly number: string
  readonly name: string
  readonly agreement: string
  readonly revision: number
  /** SHA-256 of the document as it was sent for signature, before anything was stamped. */
  readonly documentHash: string
  /** How many entries the whole trail has, and the hash of the last. */
  readonly trail: { readonly entries: number; readonly head: string }
  readonly parties: readonly {
    readonly label: string
    readonly name: string
    readonly email: string
    readonly title: string
    readonly consentedAt: string
    readonly signedAt: string
    readonly address: string
    readonly signature: string
  }[]
  /** What concerns the parties. */
  readonly entries: readonly Pick<TrailEntry, 'seq' | 'at' | 'actor' | 'act' | 'hash'>[]
}
