import * as asn1js from 'asn1js'

// ASN.1 in DER (ITU-T X.690), by a package; here are only the few shapes that signatures are made of.

/** A value of ASN.1. */
export type Node = asn1js.AsnType

/** SEQUENCE. */
export const sequence = (...value: readonly Node[]): Node => new asn1js.Sequence({ value: [...value] })
/** OBJECT IDENTIFIER, with dots. */
export const oid = (value: string): Node => new asn1js.ObjectIdentifier({ value })
/** INTEGER. */
export const integer = (value: number): Node => new asn1js.Integer({ value })
/** NULL. */
export const nothing = (): Node => new asn1js.Null()
/** OCTET STRING. */
export const octets = (bytes: Uint8Array): Node => new asn1js.OctetString({ valueHex: buffer(bytes) })
/** A context-specific tag around others. */
export const tagged = (tagNumber: number, ...value: readonly Node[]): Node =>
  new asn1js.Constructed({ idBlock: { tagClass: 3, tagNumber }, value: [...value] })

/** The bytes of a value (X.690, DER). */
export const der = (node: Node): Buffer => Buffer.from(node.toBER(false))

/** SET OF, in the order of its members’ encodings (X.690, 11.6). */
export const setOf = (...value: readonly Node[]): Node =>
  new asn1js.Set({ value: [...value].sort((a, b) => Buffer.compare(der(a), der(b))) })

const buffer = (bytes: Uint8Array): ArrayBuffer =>
  bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer

/** What bytes say; null where they are not DER from end to end, or not written as DER is. */
export function read(bytes: Uint8Array): Node | null {
  const { offset, result } = asn1js.fromBER(buffer(bytes))
  if (offset !== bytes.length) return null
  return der(result).equals(bytes) ? result : null
}

const known = new WeakMap<Uint8Array, Node>()

/** The bytes as they are, for what was written by others and must not be changed by a byte. */
export function raw(bytes: Uint8Array): Node {
  const node = known.get(bytes) ?? read(bytes)
  if (!node) throw new Error('This is no DER.')
  known.set(bytes, node)
  return node
}

/** The members of what is made of others; empty for what is not. */
export const membersOf = (node: Node | undefined): readonly Node[] =>
  node instanceof asn1js.Constructed ? (node.valueBlock.value as Node[]) : []

/** An object identifier with dots; empty: it is none. */
export const oidOf = (node: Node | undefined): string =>
  node instanceof asn1js.ObjectIdentifier ? node.valueBlock.toString() : ''

/** The bytes of an OCTET STRING; null: it is none. */
export const octetsOf = (node: Node | undefined): Buffer | null =>
  node instanceof asn1js.OctetString ? Buffer.from(node.getValue()) : null

/** Whether it is the context-specific tag of that number. */
export const isTag = (node: Node | undefined, tagNumber: number): boolean =>
  node !== undefined && node.idBlock.tagClass === 3 && node.idBlock.tagNumber === tagNumber

/** A time as GeneralizedTime has it, to the second. */
export const generalizedTime = (at: Date): Node =>
  new asn1js.GeneralizedTime({ valueDate: new Date(Math.floor(at.getTime() / 1000) * 1000) })

/** The time of a GeneralizedTime; null: it is none. */
export const timeOf = (node: Node | undefined): Date | null =>
  node instanceof asn1js.GeneralizedTime ? node.toDate() : null
