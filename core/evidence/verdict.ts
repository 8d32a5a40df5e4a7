import type { Speaker } from '../languages/speak.ts'
import type { EvidenceParty } from './evidence.ts'
import { describeProofs } from './describe.ts'

type Party = Pick<EvidenceParty, 'label' | 'kind' | 'name' | 'proofs' | 'atDeviceOf' | 'signedAt'> & {
  readonly mail: { readonly veiled: string }
  readonly phone: { readonly veiled: string } | null
  readonly paper?: { readonly by: string } | null | undefined
}

/** What was found out about a file, as far as it is said. */
export type Verdict =
  | { readonly kind: 'unsealed'; readonly problem: string }
  | {
      readonly kind: 'sealed'
      readonly intact: boolean
      readonly problems: readonly string[]
      readonly by: {
        readonly name: string
        readonly organisation: string
        readonly fingerprint: string
        /** Of the top of its chain; null: the chain does not hold. */
        readonly root: string | null
      } | null
      readonly at: string | null
      readonly timeBy: { readonly name: string } | null
      readonly sha256: string
      readonly evidence: {
        readonly agreement: { readonly number: string; readonly name: string; readonly revision: number }
        readonly parties: readonly Party[]
      } | null
    }

/**
 * Whether a seal is one that whoever asks knows: its certificate, or the top of its chain, is among the anchors (SHA-256, hex). That
 * a file is as it was sealed says nothing of who sealed it: anybody can make a seal in any name.
 */
export function isKnownSealer(verdict: Verdict, anchors: ReadonlySet<string>): boolean {
  if (verdict.kind !== 'sealed' || !verdict.by) return false
  const { fingerprint, root } = verdict.by
  return anchors.has(fingerprint) || (root !== null && anchors.has(root))
}

/** The same in plain words, a line each. */
export function describeVerdict(
  verdict: Verdict,
  { say, moment }: Speaker,
  anchors: ReadonlySet<string>,
): readonly string[] {
  if (verdict.kind === 'unsealed') return ['NOT SEALED', verdict.problem]
  const time = (at: string) => moment(new Date(at), 'UTC')
  const lines = [
    !verdict.intact
      ? 'NOT AS IT WAS SEALED'
      : isKnownSealer(verdict, anchors)
        ? 'UNCHANGED since it was sealed'
        : 'BY AN UNKNOWN SEALER: unchanged since it was sealed, and nobody here knows by whom',
    ...verdict.problems,
  ]
  if (verdict.by)
    lines.push(
      `${isKnownSealer(verdict, anchors) ? 'Sealed by' : 'The seal calls itself'} ${verdict.by.name}, certificate ${verdict.by.fingerprint}`,
    )
  if (verdict.at && verdict.timeBy)
    lines.push(`Sealed at ${time(verdict.at)}, by the clock of ${verdict.timeBy.name}`)
  lines.push(`SHA-256 ${verdict.sha256}`)
  const { evidence } = verdict
  // What a changed file tells of who signed may be what was changed.
  if (!evidence || !verdict.intact) return lines
  lines.push(
    `Agreement ${evidence.agreement.number}, revision ${evidence.agreement.revision}: ${evidence.agreement.name}`,
  )
  for (const party of evidence.parties)
    lines.push(
      `${party.kind === 'assenter' ? 'Agreed' : 'Signed'} by ${party.name} as ${party.label}, ${time(party.signedAt)}: ${describeProofs(party, say).join('; ')}`,
    )
  return lines
}
