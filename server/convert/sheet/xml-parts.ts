import { SaxesParser } from 'saxes'
import type { ZipPackage } from '../zip-package.ts'
import { SheetFault } from './book.ts'

/** Attributes by their names without prefix. */
export type Attributes = Readonly<Record<string, string>>

/** What a reader of one part hears: elements by their names without prefix, and the text between. */
export interface PartReader {
  open?(name: string, attributes: Attributes): void
  text?(text: string): void
  close?(name: string): void
}

const local = (name: string) => (name.includes(':') ? name.slice(name.indexOf(':') + 1) : name)

/** What a part consists of for its most part, read without the parser: what `take` finds is cut out of what it reads. */
export interface Shortcut {
  /** Text up to which whole pieces lie before it; what comes after waits for more. */
  readonly end: string
  /** Finds the pieces in a text and takes them; gives what stands between them to `rest`, in order. */
  take(text: string, rest: (text: string) => void): void
}

/** Characters that wait for the end of a piece at the most. */
const MOST_WAITING = 8_000_000

/**
 * Reads a part of a package as XML while it is unpacked; false where there is none. Documents with a document type are
 * refused: nothing may be expanded. `prefixed` keeps the prefixes of names.
 */
export async function readPart(
  zip: ZipPackage,
  name: string,
  reader: PartReader,
  prefixed = false,
  shortcut: Shortcut | null = null,
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
    let waiting = ''
    const write = (text: string) => {
      if (!shortcut) return void parser.write(text)
      waiting += text
      const end = waiting.lastIndexOf(shortcut.end)
      if (end < 0 && waiting.length < MOST_WAITING) return
      const whole = end < 0 ? waiting.length : end + shortcut.end.length
      shortcut.take(waiting.slice(0, whole), (between) => void parser.write(between))
      waiting = waiting.slice(whole)
    }
    const found = await zip.pass(name, (chunk) => write(decoder.decode(chunk, { stream: true })))
    if (found) {
      write(decoder.decode())
      parser.write(waiting)
      parser.close()
    }
    return found
  } catch (error) {
    if (error instanceof SheetFault) throw error
    throw new SheetFault(`The file cannot be opened: its part ${name} is damaged.`)
  }
}
