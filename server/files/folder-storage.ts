import { randomUUID } from 'node:crypto'
import { type FileHandle, mkdir, open, readdir, readFile, rename, rm, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import type { Readable } from 'node:stream'
import type { FileStorage } from './storage.ts'

/** Milliseconds after which a part that nobody has finished is left over. */
const PART_AGE = 10_000

/** Readable to whoever runs the app, and to nobody else. */
const [OWN, OWN_FOLDER] = [0o600, 0o700]

/** Keeps files in a folder: written as a part, brought to the disk, and named when they are whole. */
export class FolderStorage implements FileStorage {
  private readonly parts: string

  constructor(private readonly folder: string) {
    this.parts = join(folder, 'parts')
  }

  private pathOf(name: string): string {
    return join(this.folder, name.slice(0, 2), name)
  }

  sizeOf(name: string): Promise<number | null> {
    return stat(this.pathOf(name)).then(
      ({ size }) => size,
      () => null,
    )
  }

  async put(name: string, bytes: Uint8Array): Promise<void> {
    await this.write(
      (handle) => handle.writeFile(bytes),
      () => name,
    )
  }

  async putStream(stream: Readable, nameAtEnd: () => string): Promise<void> {
    await this.write(async (handle) => {
      for await (const chunk of stream as AsyncIterable<Buffer>) await handle.writeFile(chunk)
    }, nameAtEnd)
  }

  private async write(fill: (handle: FileHandle) => Promise<void>, name: () => string): Promise<void> {
    await mkdir(this.parts, { recursive: true, mode: OWN_FOLDER })
    const part = join(this.parts, randomUUID())
    try {
      const handle = await open(part, 'wx', OWN)
      // Whatever happens, such as a full disk, the handle is given back.
      try {
        await fill(handle)
        await handle.sync()
      } finally {
        await handle.close()
      }
      const path = this.pathOf(name())
      await mkdir(dirname(path), { recursive: true, mode: OWN_FOLDER })
      await rename(part, path)
    } catch (error) {
      await rm(part, { force: true })
      throw error
    }
  }

  get(name: string): Promise<Uint8Array> {
    return readFile(this.pathOf(name))
  }

  async remove(name: string): Promise<void> {
    await rm(this.pathOf(name), { force: true })
  }

  /** Parts lie together, so that this looks at what is being written and at nothing else; younger ones may still be. */
  async tidy(): Promise<void> {
    const old = Date.now() - PART_AGE
    for (const name of await readdir(this.parts).catch(() => [])) {
      const path = join(this.parts, name)
      const written = await stat(path).catch(() => null)
      if (written && written.mtimeMs < old) await rm(path, { force: true })
    }
  }
}
