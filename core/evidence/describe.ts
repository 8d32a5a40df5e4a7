import type { Say, Speaker } from '../languages/speak.ts'
import type { WordKey } from '../languages/en.ts'
import { type ActName, ACTS } from '../trail/acts.ts'
import { FORMER_CHECKS, isFormerCheck } from '../ceremony/parties.ts'
import type { Evidence, EvidenceParty, PaperEvidence } from './evidence.ts'

/** Evidence as it is read on the last pages: nothing but text, in one language. */
export interface SaidEvidence {
  readonly language: string
  readonly title: string
  readonly foot: string
  readonly rows: readonly Row[]
  readonly signedBy: string
  readonly parties: readonly {
    readonly label: string
    readonly name: string
    readonly rows: readonly Row[]
  }[]
  readonly happened: string
  readonly columns: readonly string[]
  readonly acts: readonly (readonly [seq: string, at: string, actor: string, act: string, hash: string])[]
  readonly closing: string
}

/** `code`: to be set in a face of fixed width. */
interface Row {
  readonly label: string
  readonly text: string
  readonly code?: boolean
}

/** An act as its parties read it; one that is none of theirs by its name. */
export const describeAct = (act: ActName, say: Say): string => {
  const key = ACTS[act].parties
  return key ? say(key) : act
}

/** The proofs of who a party is, in plain words, weakest first. */
export const describeProofs = (
  party: Pick<EvidenceParty, 'proofs' | 'atDeviceOf'> & {
    readonly paper?: Pick<PaperEvidence, 'by'> | null | undefined
    readonly mail: { readonly veiled: string }
    readonly phone: { readonly veiled: string } | null
  },
  say: Say,
): readonly string[] =>
  party.proofs.map((proof) =>
    say(`evidence.proof.${isFormerCheck(proof) ? FORMER_CHECKS[proof] : proof}`, {
      email: party.mail.veiled,
      phone: party.phone?.veiled ?? '',
      person: party.paper?.by ?? party.atDeviceOf ?? '',
    }),
  )

/** Says evidence in a language; times in UTC, to the second, so that they are the same for every reader. */
export function describeEvidence(evidence: Evidence, { say, moment, language }: Speaker): SaidEvidence {
  const { agreement, document, trail, parties, acts, verify } = evidence
  const time = (at: string) => moment(new Date(at), 'UTC')
  const row = (label: WordKey, text: string, code = false): Row => ({ label: say(label), text, code })
  return {
    language,
    title: say('evidence.title'),
    foot: agreement.number,
    rows: [
      row('evidence.agreement', agreement.name),
      row(
        'evidence.number',
        say('evidence.revision', { number: agreement.number, revision: agreement.revision }),
      ),
      row('evidence.document', document.sha256, true),
      row('evidence.trail', `${trail.entries}, ${trail.head}`, true),
      row('evidence.verify', `${verify.url}`, true),
      row('evidence.code', verify.code, true),
    ],
    signedBy: say('evidence.signedBy'),
    parties: parties.map((party) => ({
      label: party.label,
      name: party.title ? `${party.name}, ${party.title}` : party.name,
      rows: [
        row('evidence.identity', describeProofs(party, say).join('; ')),
        ...(party.consentedAt ? [row('evidence.consent', time(party.consentedAt))] : []),
        row(
          party.kind === 'assenter' ? 'evidence.agreed' : 'evidence.signed',
          `${time(party.signedAt)}${party.kind === 'assenter' ? '' : `, ${say(`evidence.manner.${party.signature}`)}`}`,
        ),
        ...(party.paper
          ? [row('evidence.scan', party.paper.sha256, true)]
          : [row('evidence.address', party.networkAddress)]),
      ],
    })),
    happened: say('evidence.happened'),
    columns: [say('evidence.time'), say('evidence.by'), say('evidence.act'), say('evidence.hash')],
    acts: acts.map(({ seq, at, actor, act, networkAddress, hash }) => [
      String(seq),
      time(at),
      actor,
      networkAddress ? `${describeAct(act, say)} (${networkAddress})` : describeAct(act, say),
      hash.slice(0, 12),
    ]),
    closing: say('evidence.closing'),
  }
}
