import { promisify } from 'node:util'
import yauzl, { type Entry, type ZipFile } from 'yauzl'

/** Bytes a package may have once unpacked: each part, and all that are read together; and how many parts. */
export interface ZipLimits {
  readonly part: number
  readonly whole: number
  readonly parts: number
}

/** A fault of a file, in words for whoever uploaded it. */
export class PackageFault extends Error {}

const open = promisify<Buffer, yauzl.Options, ZipFile>(yauzl.fromBuffer)

/** The parts of a ZIP package, each unpacked only when it is asked for and only up to its limit. */
export class ZipPackage {
  private used = 0
  private folded: ReadonlyMap<string, string> | null = null

  private constructor(
    private readonly zip: ZipFile,
    private readonly entries: ReadonlyMap<string, Entry>,
    private readonly limits: ZipLimits,
    private readonly what: string,
  ) {}

  /** `what` names the kind of file in what is told of its faults: "document", "workbook". */
  static async open(bytes: Uint8Array, limits: ZipLimits, what: string): Promise<ZipPackage> {
    const damaged = () => new PackageFault(`The ${what} cannot be unpacked: the file is damaged.`)
    const buffer = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength)
    // Sizes are counted here while a part is unpacked, and names are looked up, never written to a disk.
    const zip = await open(buffer, {
      lazyEntries: true,
      autoClose: false,
      validateEntrySizes: false,
      strictFileNames: false,
      decodeStrings: true,
    }).catch(() => {
      throw damaged()
    })
    if (zip.entryCount > limits.parts) throw new PackageFault(`The ${what} is made of too many parts.`)
    const entries = new Map<string, Entry>()
    await new Promise<void>((resolve, reject) => {
      zip.on('entry', (entry: Entry) => {
        if (!entry.fileName.endsWith('/')) entries.set(entry.fileName, entry)
        zip.readEntry()
      })
      zip.on('end', resolve)
      zip.on('error', () => reject(damaged()))
      zip.readEntry()
    })
    return new ZipPackage(zip, entries, limits, what)
  }

  /** The name that a part has here: names of parts are the same in large and small letters (ECMA-376 part 2, 9.1.1). */
  named(name: string): string {
    if (this.entries.has(name)) return name
    this.folded ??= new Map([...this.entries.keys()].map((each) => [each.toLowerCase(), each]))
    return this.folded.get(name.toLowerCase()) ?? name
  }

  has(name: string): boolean {
    return this.entries.has(name)
  }

  names(): readonly string[] {
    return [...this.entries.keys()]
  }

  /** Bytes of a part. The size is counted while it is unpacked: what a file says of its sizes may be a lie. */
  async bytes(name: string): Promise<Uint8Array | null> {
    const chunks: Buffer[] = []
    return (await this.pass(name, (chunk) => chunks.push(chunk))) ? Buffer.concat(chunks) : null
  }

  /** Hands a part on chunk by chunk; false where there is none. */
  async pass(name: string, take: (chunk: Buffer) => void): Promise<boolean> {
    const entry = this.entries.get(name)
    if (!entry) return false
    const damaged = () => new PackageFault(`The part ${name} of the ${this.what} is damaged.`)
    let size = 0
    await new Promise<void>((resolve, reject) => {
      this.zip.openReadStream(entry, (error, stream) => {
        if (error) return reject(damaged())
        const refuse = (fault: Error) => {
          stream.destroy()
          reject(fault)
        }
        stream.on('data', (chunk: Buffer) => {
          size += chunk.length
          this.used += chunk.length
          if (size > this.limits.part || this.used > this.limits.whole)
            return refuse(
              new PackageFault(`Unpacked, the ${this.what} is larger than any that is taken here.`),
            )
          try {
            take(chunk)
          } catch (fault) {
            refuse(fault instanceof Error ? fault : new Error(String(fault)))
          }
        })
        stream.on('end', resolve)
        stream.on('error', () => reject(damaged()))
      })
    })
    return true
  }
}

/** The part that says what another is related to (ECMA-376 part 2, 9.3.3); of the package itself where the name is empty. */
export function relationsPart(part: string): string {
  const at = part.lastIndexOf('/') + 1
  return `${part.slice(0, at)}_rels/${part.slice(at)}.rels`
}

/** The name of a part that another refers to; never outside of the package. */
export function partBeside(part: string, target: string): string {
  if (target.startsWith('/')) return target.slice(1)
  const folders = part.split('/').slice(0, -1)
  for (const step of target.split('/')) {
    if (step === '..') folders.pop()
    else if (step !== '.') folders.push(step)
  }
  return folders.join('/')
}
