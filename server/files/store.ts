import { createHash, randomUUID } from 'node:crypto'
import type { Readable } from 'node:stream'
import { mkdir, open, readdir, readFile, rename, rm, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { eq } from 'drizzle-orm'
import { file } from '#server/db/schema.ts'
import type { Db } from '#server/db/connect.ts'

/** Milliseconds after which a part that nobody has finished is left over. */
const PART_AGE = 10_000

/** Readable to whoever runs the app, and to nobody else. */
const [OWN, OWN_FOLDER] = [0o600, 0o700]

export const sha256 = (bytes: Uint8Array | string): string => createHash('sha256').update(bytes).digest('hex')

/** Files under their SHA-256: the same bytes are stored once, and a name never changes what it means. */
export class FileStore {
  constructor(private readonly folder: string) {}

  pathOf(hash: string): string {
    return join(this.folder, hash.slice(0, 2), hash)
  }

  /** Writes the bytes whole or not at all, then records them in `db`. Storing again is without effect. */
  async put(db: Db, bytes: Uint8Array, mediaType: string, at: Date): Promise<string> {
    const [hash] = await this.putAll(db, [bytes], mediaType, at)
    return hash!
  }

  /** The same for several files of one kind, written side by side. */
  async putAll(
    db: Db,
    files: readonly Uint8Array[],
    mediaType: string,
    at: Date,
  ): Promise<readonly string[]> {
    const hashes = await Promise.all(files.map((bytes) => this.write(bytes)))
    await db
      .insert(file)
      .values(
        // In one order for everybody: two who store the same files would wait for each other otherwise.
        files
          .map((bytes, i) => ({ sha256: hashes[i]!, size: bytes.length, mediaType, createdAt: at }))
          .sort((a, b) => (a.sha256 < b.sha256 ? -1 : 1)),
      )
      .onConflictDoNothing()
    return hashes
  }

  private async write(bytes: Uint8Array): Promise<string> {
    const hash = sha256(bytes)
    const path = this.pathOf(hash)
    const there = await stat(path).then(
      (found) => found.size === bytes.length,
      () => false,
    )
    if (there) return hash
    await mkdir(dirname(path), { recursive: true, mode: OWN_FOLDER })
    const part = `${path}.${randomUUID()}.part`
    try {
      const handle = await open(part, 'wx', OWN)
      // Whatever happens, such as a full disk, the handle is given back.
      try {
        await handle.writeFile(bytes)
        await handle.sync()
      } finally {
        await handle.close()
      }
      await rename(part, path)
    } catch (error) {
      await rm(part, { force: true })
      throw error
    }
    return hash
  }

  /** The same for bytes as they come, however many; what was written of a stream that breaks off is removed. */
  async putStream(db: Db, stream: Readable, mediaType: string, at: Date): Promise<string> {
    await mkdir(this.folder, { recursive: true, mode: OWN_FOLDER })
    const part = join(this.folder, `${randomUUID()}.part`)
    const digest = createHash('sha256')
    let size = 0
    const handle = await open(part, 'wx', OWN)
    try {
      for await (const chunk of stream as AsyncIterable<Buffer>) {
        digest.update(chunk)
        size += chunk.length
        await handle.writeFile(chunk)
      }
      await handle.sync()
    } catch (error) {
      await handle.close()
      await rm(part, { force: true })
      throw error
    }
    await handle.close()
    const hash = digest.digest('hex')
    await mkdir(dirname(this.pathOf(hash)), { recursive: true, mode: OWN_FOLDER })
    await rename(part, this.pathOf(hash))
    await db.insert(file).values({ sha256: hash, size, mediaType, createdAt: at }).onConflictDoNothing()
    return hash
  }

  /** Removes what was left half written by a process that died; younger parts may still be in the making. */
  async sweep(): Promise<void> {
    const old = Date.now() - PART_AGE
    const found = await readdir(this.folder, { recursive: true }).catch(() => [])
    for (const name of found.filter((each) => each.endsWith('.part'))) {
      const path = join(this.folder, name)
      const written = await stat(path).catch(() => null)
      if (written && written.mtimeMs < old) await rm(path, { force: true })
    }
  }

  /** Whether a file is stored. */
  async has(db: Db, hash: string): Promise<boolean> {
    const [found] = await db.select({ size: file.size }).from(file).where(eq(file.sha256, hash))
    return found !== undefined
  }

  /** Whether a file is there with the bytes its name says. */
  isWhole(hash: string): Promise<boolean> {
    return readFile(this.pathOf(hash)).then(
      (bytes) => sha256(bytes) === hash,
      () => false,
    )
  }

  /** Takes a file out of the store; its record has to be gone before. */
  async remove(hash: string): Promise<void> {
    await rm(this.pathOf(hash), { force: true })
  }

  async get(hash: string): Promise<Uint8Array> {
    const bytes = await readFile(this.pathOf(hash))
    if (sha256(bytes) !== hash) throw new Error(`Stored file ${hash} has other bytes than its name says.`)
    return bytes
  }
}
