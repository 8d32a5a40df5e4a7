import { createHash, X509Certificate } from 'node:crypto'
import {
  decodePDFRawStream,
  PDFArray,
  PDFDict,
  PDFDocument,
  PDFHexString,
  PDFName,
  PDFNumber,
  type PDFObject,
  PDFRawStream,
  PDFString,
} from 'pdf-lib'
import * as pkijs from 'pkijs'
import type { Evidence } from '#core/evidence/evidence.ts'
import { fingerprintOf, OID, readMessage, type ReadMessage, sha256 } from './cms.ts'
import { EVIDENCE_FILE } from './evidence-file.ts'
import { readToken } from './time-stamp.ts'

/** Whose certificate it is. */
export interface Holder {
  readonly name: string
  readonly organisation: string
  /** SHA-256 of the certificate, hex. */
  readonly fingerprint: string
  readonly issuer: string
  /** SHA-256 of the certificate at the top of its chain, hex; null: the chain does not hold. */
  readonly root: string | null
}

/** What a file says of its seals. */
export type Examined =
  /** No PDF, or one that nobody has sealed. */
  | { readonly kind: 'unsealed'; readonly problem: string }
  | {
      readonly kind: 'sealed'
      /** Nothing was changed or added since, and all of it holds. */
      readonly intact: boolean
      /** What does not hold, in words. */
      readonly problems: readonly string[]
      readonly by: Holder | null
      /** When it was sealed, by the time-stamp authority, ISO 8601. */
      readonly at: string | null
      readonly timeBy: Holder | null
      readonly sha256: string
      /** What the file tells of who signed; null: it holds none that can be read. Only of an intact file it may be believed. */
      readonly evidence: Evidence | null
    }

const unsealed = (problem: string): Examined => ({ kind: 'unsealed', problem })

/** Bytes of a file that is looked at. */
export const LARGEST_EXAMINED = 40_000_000

/**
 * Reads a file's seal and holds it against the file: bytes, signature, certificate, time stamp, revocation, and that the whole file is
 * covered and nothing stands behind it. Needs nothing but the file.
 */
export async function examine(bytes: Uint8Array): Promise<Examined> {
  try {
    return await lookedAt(bytes)
  } catch {
    // What stood in the file so that it could be read does not any more.
    return unreadable(bytes, ['The file cannot be read as it was written.'])
  }
}

const unreadable = (bytes: Uint8Array, problems: readonly string[]): Examined => ({
  kind: 'sealed',
  intact: false,
  problems,
  by: null,
  at: null,
  timeBy: null,
  sha256: fingerprintOf(bytes),
  evidence: null,
})

async function lookedAt(bytes: Uint8Array): Promise<Examined> {
  if (bytes.length > LARGEST_EXAMINED) return unsealed('The file is larger than 40 MB.')
  if (Buffer.from(bytes.subarray(0, 1024)).indexOf('%PDF-') < 0) return unsealed('This is no PDF.')
  const found = await signatureOf(bytes)
  if (!found) return unsealed('This PDF has no seal, or it cannot be read any more.')
  const problems: string[] = []
  const { range, contents, document } = found
  const [start, first, second, rest] = range
  const covers =
    start === 0 && second - first === contents.length + 2 && second + rest === bytes.length && first > 0
  if (!covers)
    problems.push(
      second + rest < bytes.length
        ? 'Something was added to the file after it was sealed.'
        : 'The seal does not cover the whole file.',
    )
  const written = Buffer.from(bytes.subarray(first, second)).toString('latin1')
  if (covers && written !== `<${contents}>`) problems.push('The seal is not written as it was made.')
  const message = messageIn(contents, problems)
  if (!message) return unreadable(bytes, problems)
  const digest = createHash('sha256').update(bytes.subarray(0, first)).update(bytes.subarray(second)).digest()
  if (!digest.equals(message.digest)) problems.push('The file was changed after it was sealed.')
  if (!message.holds) problems.push('The signature of the seal does not hold.')
  if (!message.canonical()) problems.push('The seal was changed, or is not one of this kind.')
  const evidence = evidenceIn(document)
  const kept = validationIn(document)
  const chains = new Chains([...message.certificates, ...kept.certificates])
  const stamp = message.token ? readToken(message.token) : null
  if (!stamp) problems.push('The seal has no time stamp that can be read.')
  else {
    if (!stamp.imprint.equals(sha256(message.signature)))
      problems.push('The time stamp is of something else.')
    if (!stamp.message.holds) problems.push('The signature of the time stamp does not hold.')
    if (evidence?.seal.ownTime && !stamp.message.canonical()) problems.push('The time stamp was changed.')
    chains.add(stamp.message.certificates)
  }
  // One that follows from nothing was changed, or put there.
  // Authorities elsewhere often leave out their root, which readers have.
  const ofTime = evidence?.seal.ownTime ? (stamp?.message.certificates ?? []) : []
  const carried = [...message.certificates, ...ofTime, ...kept.certificates]
  if (!carried.every((each) => chains.holds(each)))
    problems.push('A certificate in the file was changed, or does not belong to its seal.')
  const at = stamp?.at ?? null
  const by = chains.holderOf(message.certificate)
  const timeBy = stamp ? chains.holderOf(stamp.message.certificate) : null
  if (by.root === null) problems.push('The certificate of the seal does not follow from its issuer’s.')
  if (timeBy && timeBy.root === null && evidence?.seal.ownTime)
    problems.push('The certificate of the time stamp does not follow from its issuer’s.')
  if (at && !isValidAt(message.certificate, at))
    problems.push('The certificate of the seal did not count at that time.')
  if (stamp && at && !isForTime(stamp.message.certificate, at))
    problems.push('The certificate of the time stamp is none for it.')
  problems.push(
    ...(await revoked(kept.lists, chains, [
      message.certificate,
      ...(stamp ? [stamp.message.certificate] : []),
    ])),
  )
  return {
    kind: 'sealed',
    intact: problems.length === 0,
    problems,
    by,
    at: at?.toISOString() ?? null,
    timeBy,
    sha256: fingerprintOf(bytes),
    evidence,
  }
}

/** The signature that covers most of the file, with the hexadecimal text of its contents as it should stand there. */
async function signatureOf(bytes: Uint8Array) {
  let document: PDFDocument
  try {
    document = await PDFDocument.load(bytes, { updateMetadata: false, throwOnInvalidObject: false })
  } catch {
    return null
  }
  const found = document.context.enumerateIndirectObjects().flatMap(([, object]) => {
    if (!(object instanceof PDFDict) || !(object.get(PDFName.of('ByteRange')) instanceof PDFArray)) return []
    const contents = object.get(PDFName.of('Contents'))
    const range = (object.get(PDFName.of('ByteRange')) as PDFArray).asArray()
    if (!(contents instanceof PDFHexString) || range.length !== 4) return []
    if (!range.every((each): each is PDFNumber => each instanceof PDFNumber)) return []
    const numbers = range.map((each) => each.asNumber()) as [number, number, number, number]
    return [{ range: numbers, contents: contents.asString() }]
  })
  const end = ({ range }: (typeof found)[number]) => range[2] + range[3]
  const last = found.sort((a, b) => end(a) - end(b)).at(-1)
  return last ? { ...last, document } : null
}

/** The message in the contents, behind which there is nothing but zeros. */
function messageIn(contents: string, problems: string[]): ReadMessage | null {
  const fault = (text: string) => {
    problems.push(text)
    return null
  }
  // Hexadecimal as it was written: small letters, whole bytes.
  if (!/^(?:[0-9a-f]{2})+$/.test(contents)) return fault('The seal is not written as it was made.')
  const bytes = Buffer.from(contents, 'hex')
  const length = derLength(bytes)
  if (length === null || bytes.subarray(length).some((byte) => byte !== 0))
    return fault('The seal cannot be read.')
  const message = readMessage(bytes.subarray(0, length))
  if (message?.contentType !== OID.data || message.content !== null) return fault('The seal cannot be read.')
  return message
}

/** Bytes of the first element, its head included (ITU-T X.690, 8.1.3). */
function derLength(bytes: Buffer): number | null {
  const first = bytes[1]
  if (first === undefined) return null
  if (first < 0x80) return 2 + first
  const count = first & 0x7f
  if (count === 0 || count > 4 || bytes.length < 2 + count) return null
  const length = 2 + count + bytes.readUIntBE(2, count)
  return length <= bytes.length ? length : null
}

const streamsOf = (document: PDFDocument, array: PDFObject | undefined): readonly Buffer[] => {
  const list = array ? document.context.lookup(array) : undefined
  if (!(list instanceof PDFArray)) return []
  return list.asArray().flatMap((each) => {
    const stream = document.context.lookup(each)
    return stream instanceof PDFRawStream ? [decoded(stream)] : []
  })
}

/** Bytes that one stream within the file may unfold to. */
const LARGEST_STREAM = 4_000_000

function decoded(stream: PDFRawStream): Buffer {
  const reader = decodePDFRawStream(stream)
  const chunks: Buffer[] = []
  for (let size = 0; size < LARGEST_STREAM;) {
    const chunk = Buffer.from(reader.getBytes(65_536))
    if (!chunk.length) break
    size += chunk.length
    chunks.push(chunk)
  }
  return Buffer.concat(chunks)
}

/** Certificates and revocation lists that the file carries (ETSI EN 319 142-1, 5.4.2). */
function validationIn(document: PDFDocument) {
  const entry = document.catalog.get(PDFName.of('DSS'))
  const store = entry ? document.context.lookup(entry) : undefined
  if (!(store instanceof PDFDict)) return { certificates: [], lists: [] }
  return {
    certificates: streamsOf(document, store.get(PDFName.of('Certs'))),
    lists: streamsOf(document, store.get(PDFName.of('CRLs'))),
  }
}

function evidenceIn(document: PDFDocument): Evidence | null {
  try {
    const files = document.catalog.lookup(PDFName.of('AF'), PDFArray)
    for (const each of files.asArray()) {
      const file = document.context.lookup(each, PDFDict)
      const name = file.lookup(PDFName.of('UF'))
      const text = name instanceof PDFHexString || name instanceof PDFString ? name.decodeText() : ''
      if (text !== EVIDENCE_FILE) continue
      const stream = file.lookup(PDFName.of('EF'), PDFDict).lookup(PDFName.of('F'))
      if (!(stream instanceof PDFRawStream)) continue
      const read = JSON.parse(decoded(stream).toString('utf8')) as Evidence
      return read.form === 'brevan evidence 1' ? read : null
    }
  } catch {
    // A file with other attachments, or broken ones, tells nothing.
  }
  return null
}

/** Certificates that are at hand, and how they follow from each other. */
class Chains {
  private readonly all = new Map<string, X509Certificate>()

  constructor(certificates: readonly Uint8Array[]) {
    this.add(certificates)
  }

  add(certificates: readonly Uint8Array[]): void {
    for (const each of certificates)
      try {
        const certificate = new X509Certificate(each)
        this.all.set(certificate.fingerprint256, certificate)
      } catch {
        // What is no certificate holds up none.
      }
  }

  issuerOf(certificate: X509Certificate): X509Certificate | null {
    return (
      [...this.all.values()].find(
        (each) => certificate.checkIssued(each) && certificate.verify(each.publicKey),
      ) ?? null
    )
  }

  /** The top of a chain, itself where it has issued itself; null: an issuer is missing. */
  rootOf(certificate: X509Certificate): X509Certificate | null {
    let at = certificate
    for (let depth = 0; depth < 8; depth++) {
      const issuer = this.issuerOf(at)
      if (!issuer) return null
      if (issuer.fingerprint256 === at.fingerprint256) return at
      at = issuer
    }
    return null
  }

  /** Whether it is a certificate that follows from a root at hand, with its own signature right. */
  holds(der: Uint8Array): boolean {
    try {
      return this.rootOf(new X509Certificate(der)) !== null
    } catch {
      return false
    }
  }

  holderOf(der: Uint8Array): Holder {
    const certificate = new X509Certificate(der)
    const root = this.rootOf(certificate)
    const plain = (fingerprint: string) => fingerprint.replaceAll(':', '').toLowerCase()
    const part = (of: string, key: string) => new RegExp(`^${key}=(.*)$`, 'm').exec(of)?.[1] ?? ''
    return {
      name: part(certificate.subject, 'CN'),
      organisation: part(certificate.subject, 'O'),
      issuer: part(certificate.issuer, 'CN'),
      fingerprint: plain(certificate.fingerprint256),
      root: root && plain(root.fingerprint256),
    }
  }
}

const isValidAt = (der: Uint8Array, at: Date): boolean => {
  const { validFrom, validTo } = new X509Certificate(der)
  // Clocks differ by a little.
  const slack = 5 * 60_000
  return at.getTime() + slack >= Date.parse(validFrom) && at.getTime() <= Date.parse(validTo)
}

const TIME_STAMPING = '1.3.6.1.5.5.7.3.8'
const isForTime = (der: Uint8Array, at: Date): boolean => {
  const { keyUsage } = new X509Certificate(der)
  return keyUsage?.length === 1 && keyUsage[0] === TIME_STAMPING && isValidAt(der, at)
}

/** What the lists within the file say of certificates; a list counts where its issuer has signed it. */
async function revoked(
  lists: readonly Buffer[],
  chains: Chains,
  certificates: readonly Uint8Array[],
): Promise<readonly string[]> {
  const problems: string[] = []
  for (const bytes of lists) {
    const list = readList(bytes)
    if (!list) {
      problems.push('A revocation list in the file cannot be read.')
      continue
    }
    for (const der of certificates) {
      const certificate = new X509Certificate(der)
      const issuer = chains.issuerOf(certificate)
      if (!issuer) continue
      const issuing = pkijs.Certificate.fromBER(new Uint8Array(issuer.raw))
      if (!list.issuer.isEqual(issuing.subject)) continue
      if (!(await list.verify({ issuerCertificate: issuing }))) {
        problems.push('A revocation list in the file does not hold.')
        continue
      }
      if (list.isCertificateRevoked(pkijs.Certificate.fromBER(new Uint8Array(der))))
        problems.push('A certificate of the seal was revoked.')
    }
  }
  return problems
}

function readList(bytes: Buffer): pkijs.CertificateRevocationList | null {
  try {
    return pkijs.CertificateRevocationList.fromBER(new Uint8Array(bytes))
  } catch {
    return null
  }
}
