import JSZip from 'jszip'

/** Bytes a package may have once unpacked: each part, and all that are read together; and how many parts. */
export interface ZipLimits {
  readonly part: number
  readonly whole: number
  readonly parts: number
}

/** A fault of a file, in words for whoever uploaded it. */
export class PackageFault extends Error {}

/** The parts of a ZIP package, each unpacked only when it is asked for and only up to its limit. */
export class ZipPackage {
  private used = 0

  private constructor(
    private readonly zip: JSZip,
    private readonly limits: ZipLimits,
    private readonly what: string,
  ) {}

  /** `what` names the kind of file in what is told of its faults: "document", "workbook". */
  static async open(bytes: Uint8Array, limits: ZipLimits, what: string): Promise<ZipPackage> {
    let zip: JSZip
    try {
      zip = await JSZip.loadAsync(bytes)
    } catch {
      throw new PackageFault(`The ${what} cannot be unpacked: the file is damaged.`)
    }
    if (Object.keys(zip.files).length > limits.parts)
      throw new PackageFault(`The ${what} is made of too many parts.`)
    return new ZipPackage(zip, limits, what)
  }

  has(name: string): boolean {
    return this.zip.file(name) !== null
  }

  names(): readonly string[] {
    return Object.keys(this.zip.files)
  }

  /** Bytes of a part. The size is counted while it is unpacked: what a file says of its sizes may be a lie. */
  async bytes(name: string): Promise<Uint8Array | null> {
    const chunks: Buffer[] = []
    return (await this.pass(name, (chunk) => chunks.push(chunk))) ? Buffer.concat(chunks) : null
  }

  /** Hands a part on chunk by chunk; false where there is none. */
  pass(name: string, take: (chunk: Buffer) => void): Promise<boolean> {
    const entry = this.zip.file(name)
    if (!entry) return Promise.resolve(false)
    let size = 0
    return new Promise((resolve, reject) => {
      const stream = entry.nodeStream('nodebuffer')
      const refuse = (fault: Error) => {
        ;(stream as unknown as { destroy?: () => void }).destroy?.()
        stream.pause()
        reject(fault)
      }
      stream.on('data', (chunk: Buffer) => {
        size += chunk.length
        this.used += chunk.length
        if (size > this.limits.part || this.used > this.limits.whole)
          return refuse(new PackageFault(`Unpacked, the ${this.what} is larger than any that is taken here.`))
        try {
          take(chunk)
        } catch (error) {
          refuse(error instanceof Error ? error : new Error(String(error)))
        }
      })
      stream.on('end', () => resolve(true))
      stream.on('error', () => reject(new PackageFault(`The part ${name} of the ${this.what} is damaged.`)))
    })
  }
}
