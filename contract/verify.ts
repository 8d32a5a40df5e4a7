import * as v from 'valibot'
import { CHECKS, FORMER_CHECKS, PARTY_KINDS } from '#core/ceremony/parties.ts'
import { keysOf } from '#core/keys-of.ts'
import { instant, sha256 } from './basics.ts'
import { route } from './route.ts'

const holder = v.object({
  name: v.string(),
  organisation: v.string(),
  issuer: v.string(),
  fingerprint: v.string(),
  /** Null: the certificate's chain does not hold. */
  root: v.nullable(v.string()),
})

/** What a file tells of who signed; of an intact file it may be believed. */
const evidence = v.object({
  agreement: v.object({ number: v.string(), name: v.string(), revision: v.number() }),
  organisation: v.object({ name: v.string(), place: v.string() }),
  parties: v.array(
    v.object({
      label: v.string(),
      kind: v.picklist(PARTY_KINDS),
      name: v.string(),
      proofs: v.array(
        v.picklist([...CHECKS, ...keysOf(FORMER_CHECKS), 'link by text', 'form', 'in person', 'paper']),
      ),
      atDeviceOf: v.nullable(v.string()),
      mail: v.object({ veiled: v.string() }),
      phone: v.nullable(v.object({ veiled: v.string() })),
      paper: v.optional(v.nullable(v.object({ by: v.string() }))),
      signedAt: instant,
      networkAddress: v.string(),
      signature: v.picklist(['typed', 'drawn', 'picture', 'paper', 'none']),
    }),
  ),
})

/** What became of a file that is looked at. */
export const examinedSchema = v.variant('kind', [
  v.object({ kind: v.literal('unsealed'), problem: v.string() }),
  v.object({
    kind: v.literal('sealed'),
    intact: v.boolean(),
    problems: v.array(v.string()),
    by: v.nullable(holder),
    at: v.nullable(instant),
    timeBy: v.nullable(holder),
    sha256,
    evidence: v.nullable(evidence),
    /** Whether the seal is this installation's own, by its certificate or the one that issued that. */
    ours: v.boolean(),
    /** Whether this installation knows this very file. */
    known: v.boolean(),
  }),
])
export type ExaminedFile = v.InferOutput<typeof examinedSchema>

/** Verifying a file needs no session, and the database need not know it. */
export const verifyRoutes = {
  examineFile: route({
    method: 'POST',
    path: '/verify',
    summary: 'Tell of a file whether its seal holds, and who signed',
    access: 'anyone',
    renews: [],
    upload: true,
    limit: 40_000_000,
    answer: examinedSchema,
  }),
  verifyCode: route({
    method: 'GET',
    path: '/verify/:code',
    summary: 'The hash of the sealed file that a code belongs to',
    access: 'anyone',
    params: v.object({ code: v.pipe(v.string(), v.uuid()) }),
    answer: v.object({ sha256: v.nullable(sha256), executedAt: v.nullable(instant) }),
  }),
}
