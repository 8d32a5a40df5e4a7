import { SaxesParser } from 'saxes'
import type { ZipPackage } from '../zip-package.ts'
import { SheetFault } from './book.ts'

export type Attributes = Readonly<Record<string, string>>

/** What a reader of one part hears: elements by their names without prefix, and the text between. */
export interface PartReader {
  open?(name: string, attributes: Attributes): void
  text?(text: string): void
  close?(name: string): void
}

const local = (name: string) => (name.includes(':') ? name.slice(name.indexOf(':') + 1) : name)

/**
 * Reads a part of a package as XML while it is unpacked; false where there is none. Documents with a document type are
 * refused: nothing may be expanded. `prefixed` keeps the prefixes of names.
 */
export async function readPart(
  zip: ZipPackage,
  name: string,
  reader: PartReader,
  prefixed = false,
): Promise<boolean> {
  const parser = new SaxesParser({ position: false })
  const named = prefixed ? (text: string) => text : local
  parser.on('opentag', (tag) => reader.open?.(named(tag.name), tag.attributes as Attributes))
  parser.on('closetag', (tag) => reader.close?.(named(tag.name)))
  parser.on('text', (text) => reader.text?.(text))
  parser.on('doctype', () => {
    throw new SheetFault('The file is not allowed to define entities.')
  })
  parser.on('error', (error) => {
    throw error
  })
  const decoder = new TextDecoder()
  try {
    const found = await zip.pass(name, (chunk) => void parser.write(decoder.decode(chunk, { stream: true })))
    if (found) {
      parser.write(decoder.decode())
      parser.close()
    }
    return found
  } catch (error) {
    if (error instanceof SheetFault) throw error
    throw new SheetFault(`The file cannot be opened: its part ${name} is damaged.`)
  }
}
