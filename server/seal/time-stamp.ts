import { randomBytes } from 'node:crypto'
import * as asn1js from 'asn1js'
import { OID, readMessage, type ReadMessage, sha256, signed, type Signer } from './cms.ts'
import {
  der,
  generalizedTime,
  integer,
  membersOf,
  type Node,
  octets,
  octetsOf,
  oid,
  oidOf,
  raw,
  read,
  sequence,
  timeOf,
} from './der.ts'

// Time-Stamp Protocol, RFC 3161: what is asked, what is answered, and what an answer says.

const imprintOf = (digest: Uint8Array) => sequence(sequence(oid(OID.sha256)), octets(digest))

/** A query for a time stamp over bytes, with the authority’s certificate wanted. */
export const timeQuery = (bytes: Uint8Array, nonce: Uint8Array = randomBytes(8)): Buffer =>
  der(
    sequence(
      integer(1),
      imprintOf(sha256(bytes)),
      new asn1js.Integer({ valueHex: positive(nonce) }),
      new asn1js.Boolean({ value: true }),
    ),
  )

/** An integer’s bytes that is not below nought. */
function positive(bytes: Uint8Array): ArrayBuffer {
  const copy = Uint8Array.from(bytes)
  copy[0] = (copy[0]! & 0x7f) | 0x40
  return copy.buffer
}

/** Milliseconds to wait for an authority, and bytes that an answer may have. */
const PATIENCE = 20_000
const LARGEST = 64_000

/** Asks an authority over HTTP (RFC 3161, 3.4) for a stamp over bytes; answers the token, which has been checked to be over them. */
export async function askTime(
  { url, token: shown }: { readonly url: string; readonly token?: string },
  bytes: Uint8Array,
): Promise<Buffer> {
  const answer = await fetch(url, {
    method: 'POST',
    headers: {
      'Content-Type': 'application/timestamp-query',
      ...(shown ? { Authorization: `Bearer ${shown}` } : {}),
    },
    body: new Uint8Array(timeQuery(bytes)),
    signal: AbortSignal.timeout(PATIENCE),
    redirect: 'error',
  })
  if (!answer.ok) throw new Error(`The time-stamp authority answered ${answer.status}.`)
  const reply = Buffer.from(await answer.arrayBuffer())
  if (reply.length > LARGEST) throw new Error('The time-stamp authority answered too much.')
  const [status, token] = membersOf(read(reply) ?? undefined)
  const granted = membersOf(status)[0]
  const code = granted instanceof asn1js.Integer ? granted.valueBlock.valueDec : -1
  if ((code !== 0 && code !== 1) || !token)
    throw new Error(`The time-stamp authority refused (status ${code}).`)
  const stamp = readToken(der(token))
  if (!stamp?.message.holds || !stamp.imprint.equals(sha256(bytes)))
    throw new Error('The time-stamp authority stamped something else.')
  return der(token)
}

/** A time stamp (RFC 3161) as it was read. */
export interface ReadStamp {
  readonly message: ReadMessage
  readonly at: Date
  /** SHA-256 of what was stamped. */
  readonly imprint: Buffer
}

/** What a token says; null where it is none over a SHA-256. */
export function readToken(bytes: Uint8Array): ReadStamp | null {
  const message = readMessage(bytes)
  if (message?.contentType !== OID.timeStampInfo || !message.content) return null
  if (!sha256(message.content).equals(message.digest)) return null
  const fields = membersOf(read(message.content) ?? undefined)
  const [algorithm, hash] = membersOf(fields[2])
  const at = fields.map(timeOf).find((each) => each !== null)
  const imprint = octetsOf(hash)
  return oidOf(membersOf(algorithm)[0]) === OID.sha256 && imprint && at ? { message, at, imprint } : null
}

/** Policy of the stand-in: an identifier for examples (ITU-T X.660, 2.999), for it promises nothing to anybody. */
const POLICY = '2.999.3161'

/** Answers a query as an authority does; null where it is none that can be stamped. */
export async function answerTime(query: Uint8Array, signer: Signer, at: Date): Promise<Buffer | null> {
  const fields = membersOf(read(query) ?? undefined)
  const [algorithm, hash] = membersOf(fields[1])
  const imprint = octetsOf(hash)
  if (oidOf(membersOf(algorithm)[0]) !== OID.sha256 || imprint?.length !== 32) return null
  const nonce = fields.slice(2).find((field): field is asn1js.Integer => field instanceof asn1js.Integer)
  const info: readonly Node[] = [
    integer(1),
    oid(POLICY),
    imprintOf(imprint),
    new asn1js.Integer({ valueHex: positive(randomBytes(16)) }),
    generalizedTime(at),
    sequence(integer(1)),
    ...(nonce ? [nonce] : []),
  ]
  const bytes = der(sequence(...info))
  const token = await signed({ type: OID.timeStampInfo, bytes, digest: sha256(bytes) }, signer)
  return der(sequence(sequence(integer(0)), raw(token)))
}
