import { createHash, createPublicKey, verify, X509Certificate } from 'node:crypto'
import {
  der,
  integer,
  isTag,
  membersOf,
  type Node,
  nothing,
  octets,
  octetsOf,
  oid,
  oidOf,
  raw,
  read,
  sequence,
  setOf,
  tagged,
} from './der.ts'

/** Object identifiers of RFC 5652, RFC 5035, RFC 3161 and RFC 8017. */
export const OID = {
  data: '1.2.840.113549.1.7.1',
  signedData: '1.2.840.113549.1.7.2',
  timeStampInfo: '1.2.840.113549.1.9.16.1.4',
  contentType: '1.2.840.113549.1.9.3',
  messageDigest: '1.2.840.113549.1.9.4',
  signingCertificate: '1.2.840.113549.1.9.16.2.47',
  timeStampToken: '1.2.840.113549.1.9.16.2.14',
  sha256: '2.16.840.1.101.3.4.2.1',
  rsa: '1.2.840.113549.1.1.1',
  rsaSha256: '1.2.840.113549.1.1.11',
  ecdsaSha256: '1.2.840.10045.4.3.2',
} as const

/** Whoever signs: their certificate, those above it, and how bytes are signed with their key (SHA-256). */
export interface Signer {
  readonly certificate: Uint8Array
  readonly chain: readonly Uint8Array[]
  readonly sign: (bytes: Uint8Array) => Promise<Uint8Array>
}

/** SHA-256 as bytes. */
export const sha256 = (bytes: Uint8Array): Buffer => createHash('sha256').update(bytes).digest()

/** SHA-256 in hex, by which certificates and files are named. */
export const fingerprintOf = (bytes: Uint8Array): string => sha256(bytes).toString('hex')
const sha256Algorithm = () => sequence(oid(OID.sha256))

/** Issuer and serial number of a certificate, as they stand in it (RFC 5280, 4.1). */
function nameAndSerial(certificate: Uint8Array): { readonly issuer: Node; readonly serial: Node } {
  const [body] = membersOf(raw(certificate))
  const fields = membersOf(body).filter((field) => !isTag(field, 0))
  return { serial: fields[0]!, issuer: fields[2]! }
}

const attribute = (type: string, value: Node) => sequence(oid(type), setOf(value))

/** Binds a signature to its certificate, so that no other one of the same key can stand in (RFC 5035). */
function signingCertificate(certificate: Uint8Array): Node {
  const { issuer, serial } = nameAndSerial(certificate)
  const issuerSerial = sequence(sequence(tagged(4, issuer)), serial)
  return attribute(
    OID.signingCertificate,
    sequence(sequence(sequence(octets(sha256(certificate)), issuerSerial))),
  )
}

const signatureAlgorithm = (certificate: Uint8Array): Node =>
  createPublicKey(new X509Certificate(certificate).publicKey.export({ type: 'spki', format: 'pem' }))
    .asymmetricKeyType === 'ec'
    ? sequence(oid(OID.ecdsaSha256))
    : sequence(oid(OID.rsa), nothing())

/** What a message is put together from; put together again it is the same, byte by byte. */
export interface Parts {
  readonly contentType: string
  /** Null where it is not within the message. */
  readonly content: Uint8Array | null
  readonly certificates: readonly Uint8Array[]
  /** Of the signer, which is among the certificates. */
  readonly certificate: Uint8Array
  /** The signed attributes as the SET that was signed. */
  readonly attributes: Uint8Array
  readonly signature: Uint8Array
  /** A time stamp over the signature; null: none. */
  readonly token: Uint8Array | null
}

/** Writes a message as DER. */
export function assemble(parts: Parts): Buffer {
  const { issuer, serial } = nameAndSerial(parts.certificate)
  const signerInfo = sequence(
    integer(1),
    sequence(issuer, serial),
    sha256Algorithm(),
    tagged(0, ...membersOf(raw(parts.attributes))),
    signatureAlgorithm(parts.certificate),
    octets(parts.signature),
    ...(parts.token ? [tagged(1, attribute(OID.timeStampToken, raw(parts.token)))] : []),
  )
  const content =
    parts.content === null
      ? sequence(oid(parts.contentType))
      : sequence(oid(parts.contentType), tagged(0, octets(parts.content)))
  return der(
    sequence(
      oid(OID.signedData),
      tagged(
        0,
        sequence(
          integer(parts.contentType === OID.data ? 1 : 3),
          setOf(sha256Algorithm()),
          content,
          tagged(0, ...membersOf(setOf(...parts.certificates.map(raw)))),
          setOf(signerInfo),
        ),
      ),
    ),
  )
}

/** Signs content (of which `digest` is the SHA-256); `token` may ask for a time stamp over the signature. */
export async function signed(
  content: { readonly type: string; readonly bytes: Uint8Array | null; readonly digest: Uint8Array },
  signer: Signer,
  token: (signature: Uint8Array) => Promise<Uint8Array | null> = () => Promise.resolve(null),
): Promise<Buffer> {
  const attributes = der(
    setOf(
      attribute(OID.contentType, oid(content.type)),
      attribute(OID.messageDigest, octets(content.digest)),
      signingCertificate(signer.certificate),
    ),
  )
  const signature = await signer.sign(attributes)
  return assemble({
    contentType: content.type,
    content: content.bytes,
    certificates: [signer.certificate, ...signer.chain],
    certificate: signer.certificate,
    attributes,
    signature,
    token: await token(signature),
  })
}

/** A message taken apart, and what was found out about it by itself. */
export interface ReadMessage extends Parts {
  /** SHA-256 of the content, as signed. */
  readonly digest: Buffer
  /** Whether the attributes are signed by the certificate’s key, and name that certificate. */
  readonly holds: boolean
  /** Whether it is written, byte by byte, as this module writes. */
  readonly canonical: () => boolean
}

/** Takes a message apart; null where it is none of one signer with the attributes that a seal or time stamp has. */
export function readMessage(bytes: Uint8Array): ReadMessage | null {
  try {
    return taken(bytes)
  } catch {
    return null
  }
}

function taken(bytes: Uint8Array): ReadMessage | null {
  const [type, body] = membersOf(read(bytes) ?? undefined)
  if (oidOf(type) !== OID.signedData) return null
  const fields = membersOf(membersOf(body)[0])
  const content = membersOf(fields[2])
  const certificates = membersOf(fields.find((field) => isTag(field, 0))).map((each) => der(each))
  const infos = membersOf(fields.at(-1))
  if (infos.length !== 1) return null
  const info = membersOf(infos[0])
  const signedPart = info.find((field) => isTag(field, 0))
  const unsignedPart = info.find((field) => isTag(field, 1))
  const attributes = new Map(
    membersOf(signedPart).map((each) => [oidOf(membersOf(each)[0]), membersOf(membersOf(each)[1])[0]]),
  )
  const set = Buffer.from(der(signedPart!))
  // Signed is the SET, not the tag that stands for it in the message (RFC 5652, 5.4).
  set[0] = 0x31
  const id = der(info[1]!)
  const certificate = certificates.find((each) => {
    const { issuer, serial } = nameAndSerial(each)
    return der(sequence(issuer, serial)).equals(id)
  })
  const signature = octetsOf(info.findLast((field) => octetsOf(field) !== null))
  const digest = octetsOf(attributes.get(OID.messageDigest))
  if (!certificate || !signature || !digest) return null
  const contentType = oidOf(content[0])
  const stamp = membersOf(unsignedPart).find((each) => oidOf(membersOf(each)[0]) === OID.timeStampToken)
  const token = stamp ? der(membersOf(membersOf(stamp)[1])[0]!) : null
  const essential = attributes.get(OID.signingCertificate)
  const named = octetsOf(
    membersOf(membersOf(membersOf(essential)[0])[0]).find((each) => octetsOf(each) !== null),
  )
  const parts: Parts = {
    contentType,
    content: content[1] ? octetsOf(membersOf(content[1])[0]) : null,
    certificates,
    certificate,
    attributes: set,
    signature,
    token,
  }
  return {
    ...parts,
    digest,
    holds:
      oidOf(attributes.get(OID.contentType)) === contentType &&
      (named?.equals(sha256(certificate)) ?? false) &&
      verify('sha256', set, new X509Certificate(certificate).publicKey, signature),
    canonical: () => assemble(parts).equals(bytes),
  }
}
