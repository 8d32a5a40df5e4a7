import { DOMParser, type Element, type Node } from '@xmldom/xmldom'
import { PackageFault as DocxFault, partBeside, relationsPart, ZipPackage } from '../zip-package.ts'

/** Limits of what is unpacked: a zip bomb is small outside and large inside. Bytes. */
export const DOCX_LIMITS = { file: 20_000_000, part: 40_000_000, whole: 80_000_000, parts: 2000 } as const

export { PackageFault as DocxFault } from '../zip-package.ts'

/** Where a relationship of a part leads. */
export interface Relationship {
  readonly target: string
  readonly external: boolean
  readonly type: string
}

/** The parts of a DOCX file (ECMA-376 part 2). */
export class DocxPackage {
  /** Name of the main part: the package says which it is, and it need not be word/document.xml. */
  main = 'word/document.xml'

  private constructor(private readonly zip: ZipPackage) {}

  static async open(bytes: Uint8Array): Promise<DocxPackage> {
    if (bytes.length > DOCX_LIMITS.file) throw new DocxFault('The file is larger than 20 MB.')
    if (bytes[0] === 0xd0 && bytes[1] === 0xcf)
      throw new DocxFault(
        'This is a document of the older kind (.doc), or one with a password. Save it as .docx without a password.',
      )
    if (bytes[0] !== 0x50 || bytes[1] !== 0x4b)
      throw new DocxFault('This is no DOCX document: it cannot be unpacked.')
    const opened = new DocxPackage(await ZipPackage.open(bytes, DOCX_LIMITS, 'document'))
    const named = elements(await opened.xml(relationsPart('')).catch(() => null), 'Relationship').find(
      (each) => (each.getAttribute('Type') ?? '').endsWith('/officeDocument'),
    )
    const main = partBeside('', named?.getAttribute('Target') ?? '')
    if (!opened.has(opened.main) && main.endsWith('.xml') && !/^(xl|ppt)\//.test(main) && opened.has(main))
      opened.main = main
    if (!opened.has(opened.main))
      throw new DocxFault(
        opened.names().some((name) => name.startsWith('xl/'))
          ? 'This is a spreadsheet, not a text document.'
          : 'This is no DOCX document: its text (word/document.xml) is missing.',
      )
    return opened
  }

  has(name: string): boolean {
    return this.zip.has(name)
  }

  names(): readonly string[] {
    return this.zip.names()
  }

  bytes(name: string): Promise<Uint8Array | null> {
    return this.zip.bytes(name)
  }

  /** A part as XML; null where there is none. Documents with a document type are refused: nothing may be expanded. */
  async xml(name: string): Promise<Element | null> {
    const bytes = await this.bytes(name)
    if (!bytes) return null
    const text = new TextDecoder().decode(bytes)
    if (/<!DOCTYPE|<!ENTITY/i.test(text))
      throw new DocxFault(`The part ${name} of the document is not allowed to define entities.`)
    measure(text, name)
    const damaged = () =>
      new DocxFault(`The part ${name} of the document is damaged: it is not well-formed XML.`)
    let document: ReturnType<DOMParser['parseFromString']>
    try {
      document = new DOMParser({
        onError: (level) => {
          if (level !== 'warning') throw damaged()
        },
      }).parseFromString(text, 'application/xml')
    } catch {
      throw damaged()
    }
    if (!document.documentElement) throw damaged()
    return document.documentElement
  }

  /**
   * A part that belongs to the main one, whose relationships these are, by the last word of its type ("styles"); null where
   * there is none.
   */
  async beside(relationships: ReadonlyMap<string, Relationship>, type: string): Promise<Element | null> {
    const found = [...relationships.values()].find((each) => each.type.endsWith(`/${type}`) && !each.external)
    return this.xml(found?.target ?? `word/${type}.xml`)
  }

  /** Relationships of a part by their ids. */
  async relationships(part: string): Promise<ReadonlyMap<string, Relationship>> {
    const root = await this.xml(relationsPart(part))
    return new Map(
      elements(root, 'Relationship').map((each) => [
        each.getAttribute('Id') ?? '',
        {
          target: partBeside(part, each.getAttribute('Target') ?? ''),
          type: each.getAttribute('Type') ?? '',
          external: each.getAttribute('TargetMode') === 'External',
        },
      ]),
    )
  }
}

/** Elements of a part, and levels of them in one another: above any document, and below what reading it would break at. */
const LARGEST = { elements: 400_000, levels: 150 } as const

/** Looks through a part once, before it is taken up as a whole: a reader that goes down level by level has an end. */
function measure(text: string, name: string): void {
  let [elements, level, most] = [0, 0, 0]
  for (let at = text.indexOf('<'); at >= 0; at = text.indexOf('<', at + 1)) {
    const next = text.charCodeAt(at + 1)
    if (next === 0x2f) level--
    else if (next !== 0x21 && next !== 0x3f) {
      elements++
      const end = text.indexOf('>', at)
      if (text.charCodeAt(end - 1) !== 0x2f) most = Math.max(most, ++level)
    }
  }
  if (elements > LARGEST.elements)
    throw new DocxFault(
      `The part ${name} of the document has more in it than is taken here. Divide the document.`,
    )
  if (most > LARGEST.levels)
    throw new DocxFault(`The part ${name} of the document is nested deeper than ${LARGEST.levels} levels.`)
}

/** Child elements, of a local name where one is given. */
export function elements(parent: Node | null, name?: string): readonly Element[] {
  const found: Element[] = []
  for (let child = parent?.firstChild ?? null; child; child = child.nextSibling)
    if (child.nodeType === 1 && (name === undefined || (child as Element).localName === name))
      found.push(child as Element)
  return found
}

/** The first child element of a name; null: there is none. */
export const element = (parent: Node | null, name: string): Element | null =>
  elements(parent, name)[0] ?? null

/** Wrappers that say something of what they hold and are no part of the text by themselves (17.5.2, 17.13.5). */
const WRAPPERS = new Set(['sdt', 'sdtContent', 'customXml', 'ins', 'moveTo', 'smartTag'])

/** Child elements of a local name, those inside of wrappers too: a content control may stand around a row or a cell. */
export const through = (parent: Node | null, name: string): readonly Element[] =>
  elements(parent).flatMap((child) =>
    child.localName === name ? [child] : WRAPPERS.has(child.localName ?? '') ? through(child, name) : [],
  )

/** All elements of a local name below, in order. */
export const allBelow = (parent: Node | null, name: string): readonly Element[] =>
  elements(parent).flatMap((child) => [
    ...(child.localName === name ? [child] : []),
    ...allBelow(child, name),
  ])

/** First element of a local name anywhere below. */
export function anywhere(parent: Node | null, name: string): Element | null {
  for (const child of elements(parent)) {
    const found = child.localName === name ? child : anywhere(child, name)
    if (found) return found
  }
  return null
}

/** An attribute by its local name, whatever its prefix. */
export function attribute(of: Element | null, name: string): string | null {
  if (!of) return null
  for (let i = 0; i < of.attributes.length; i++)
    if (of.attributes[i]!.localName === name) return of.attributes[i]!.value
  return null
}

/** A property that is there and not switched off (ECMA-376 part 1, 17.17.4). */
export const isOn = (flag: Element | null): boolean =>
  flag !== null && !['0', 'false', 'none', 'off'].includes(attribute(flag, 'val') ?? '')
