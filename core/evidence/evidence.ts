import { type ActName, ACTS } from '../trail/acts.ts'
import { hashOf, type TrailEntry } from '../trail/trail.ts'
import type { Check, FormerCheck, PartyKind, Way } from '../ceremony/parties.ts'

/** How it is known that a party is who they are. */
export type Proof = Check | FormerCheck | 'link by text' | 'form' | 'in person' | 'paper'

/** A signature that was given on paper: the scan that stands behind the document, and whoever put it back. */
export interface PaperEvidence {
  readonly sha256: string
  readonly pages: number
  readonly by: string
}

/** What stands in the file beside its pages. Times are ISO 8601 in UTC, hashes SHA-256 in hex. */
export interface Evidence {
  readonly form: 'brevan evidence 1'
  readonly agreement: {
    readonly id: string
    readonly number: string
    readonly name: string
    readonly title: string
    readonly revision: number
  }
  readonly organisation: { readonly name: string; readonly place: string }
  /** The document as it was shown to those who signed, before anything was stamped on it. */
  readonly document: { readonly sha256: string; readonly pages: number }
  readonly parties: readonly EvidenceParty[]
  readonly acts: readonly EvidenceAct[]
  /** How many entries the whole trail has, and the hash of the last. */
  readonly trail: { readonly entries: number; readonly head: string }
  readonly seal: {
    readonly at: string
    /** Whether the time stamp comes from the stand-in that ships with the app. */
    readonly ownTime: boolean
  }
  /** Where a copy can be checked, and the code to find this agreement there. */
  readonly verify: { readonly url: string; readonly code: string }
}

/** A party as the evidence tells of them, without any address. */
export interface EvidenceParty {
  readonly label: string
  readonly kind: PartyKind
  readonly name: string
  readonly title: string
  /** Weakest first. */
  readonly proofs: readonly Proof[]
  /** Whose device it was signed at in person; null: their own. */
  readonly atDeviceOf: string | null
  /** The address their link went to, so that its owner knows it and nobody else learns it, and its hash. */
  readonly mail: { readonly veiled: string; readonly sha256: string }
  readonly phone: { readonly veiled: string; readonly sha256: string } | null
  /** Null where they signed on paper: nothing electronic was agreed to. */
  readonly consentedAt: string | null
  readonly signedAt: string
  readonly networkAddress: string
  readonly signature: 'typed' | 'drawn' | 'picture' | 'paper' | 'none'
  readonly paper: PaperEvidence | null
  /** Hash of all that they filled in. */
  readonly values: string
}

/** An entry of the trail as the evidence has it; `at` in ISO 8601, UTC. */
export interface EvidenceAct {
  readonly seq: number
  readonly at: string
  readonly actor: string
  readonly act: ActName
  readonly networkAddress: string | null
  readonly hash: string
}

/** An address of which its owner sees that it is theirs, and nobody else which it is. */
export function maskAddress(email: string): string {
  const at = email.lastIndexOf('@')
  const name = [...email.slice(0, at)]
  return `${name[0] ?? ''}…${name.length > 2 ? name.at(-1)! : ''}@${email.slice(at + 1)}`
}
/** A telephone number with nothing but its last three digits. */
export const maskPhone = (phone: string): string => `…${phone.slice(-3)}`

/** A party as their record has them, of those who have signed or agreed. */
export interface SignedParty {
  readonly label: string
  readonly kind: PartyKind
  readonly name: string
  readonly title: string
  readonly email: string
  readonly phone: string
  readonly check: Check
  readonly linkBy: Way
  readonly atDeviceOf: string | null
  /** Signed in the sitting in which an intake form was filled, by no link that had to reach anybody. */
  readonly fromForm: boolean
  readonly consentedAt: Date | null
  readonly signedAt: Date
  readonly address: string
  readonly signature: EvidenceParty['signature']
  readonly paper: PaperEvidence | null
  readonly values: string
}

const proofsOf = ({ paper, atDeviceOf, fromForm, check, linkBy }: SignedParty): readonly Proof[] => {
  if (paper) return ['paper']
  if (atDeviceOf) return ['in person']
  const link = fromForm ? 'form' : linkBy === 'text' ? 'link by text' : 'link'
  return check === 'link' ? [link] : [link, check]
}

const partyOf = (party: SignedParty): EvidenceParty => ({
  label: party.label,
  kind: party.kind,
  name: party.name,
  title: party.title,
  proofs: proofsOf(party),
  atDeviceOf: party.atDeviceOf,
  mail: { veiled: maskAddress(party.email), sha256: hashOf(party.email) },
  phone:
    party.check === 'text code' || party.linkBy === 'text'
      ? { veiled: maskPhone(party.phone), sha256: hashOf(party.phone) }
      : null,
  consentedAt: party.consentedAt?.toISOString() ?? null,
  signedAt: party.signedAt.toISOString(),
  networkAddress: party.address,
  signature: party.signature,
  paper: party.paper,
  values: party.values,
})

/** What concerns the parties of a trail: who had read what before, or approved it why, is the sender's own. */
export const actsForParties = (entries: readonly TrailEntry[]): readonly EvidenceAct[] =>
  entries.flatMap(({ seq, at, actor, act, detail, hash }) =>
    Object.hasOwn(ACTS, act) && ACTS[act as ActName].parties !== false
      ? [
          {
            seq,
            at,
            actor,
            act: act as ActName,
            networkAddress: typeof detail['address'] === 'string' ? detail['address'] : null,
            hash,
          },
        ]
      : [],
  )

/** The evidence of an agreement that everyone has signed. */
export function evidenceOf(
  of: Pick<Evidence, 'agreement' | 'organisation' | 'document' | 'seal' | 'verify'>,
  parties: readonly SignedParty[],
  entries: readonly TrailEntry[],
): Evidence {
  return {
    form: 'brevan evidence 1',
    ...of,
    parties: parties.map(partyOf),
    acts: actsForParties(entries),
    trail: { entries: entries.length, head: entries.at(-1)?.hash ?? '' },
  }
}
