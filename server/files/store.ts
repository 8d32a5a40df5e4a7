import { createHash } from 'node:crypto'
import { Readable } from 'node:stream'
import { eq, inArray, lt } from 'drizzle-orm'
import { file, fileBegun } from '#server/db/schema.ts'
import type { Db } from '#server/db/connect.ts'
import { onlyOutside } from '#server/db/open-transaction.ts'
import type { Keeper } from './keeper.ts'

export const sha256 = (bytes: Uint8Array | string): string => createHash('sha256').update(bytes).digest('hex')

/** A file whose bytes are stored, as it will be recorded. */
export type StoredFile = Pick<typeof file.$inferInsert, 'size' | 'mediaType' | 'createdAt'> & {
  readonly sha256: string
}

/** Milliseconds after which a transaction that had stored files has ended one way or the other. */
const LONGEST = 3_600_000

/**
 * Files under their SHA-256: the same bytes are kept once, and a name never changes what it means. That a file is begun is
 * told the database before its bytes are kept, that it is there in the transaction that records it: what is left over is known
 * without looking through the keeper.
 */
export class FileStore {
  constructor(
    private readonly keeper: Keeper,
    private readonly db: Db,
    private readonly now: () => Date,
  ) {}

  /** Stores the bytes and records them at once; outside any transaction. Storing again is without effect. */
  async put(bytes: Uint8Array, mediaType: string): Promise<string> {
    const stored = await this.store([bytes], mediaType)
    await this.record(this.db, stored)
    return stored[0]!.sha256
  }

  /**
   * Stores bytes side by side before the transaction that will record them; what it never records is swept away after a
   * while.
   */
  async store(files: readonly Uint8Array[], mediaType: string): Promise<readonly StoredFile[]> {
    onlyOutside('files were to be stored')
    const stored = files.map((bytes) => ({
      sha256: sha256(bytes),
      size: bytes.length,
      mediaType,
      createdAt: this.now(),
    }))
    await this.begin(stored.map((each) => each.sha256))
    await Promise.all(
      stored.map(async ({ sha256: name, size }, i) => {
        if ((await this.keeper.sizeOf(name)) !== size) await this.keeper.put(name, files[i]!)
      }),
    )
    return stored
  }

  /** Records stored files, in the caller's transaction: from its end on they are there. */
  async record(db: Db, stored: readonly StoredFile[]): Promise<void> {
    if (stored.length === 0) return
    await db
      .insert(file)
      // In one order for everybody: two who store the same files would wait for each other otherwise.
      .values([...stored].sort((a, b) => (a.sha256 < b.sha256 ? -1 : 1)))
      .onConflictDoNothing()
  }

  /** Told at once; whoever takes a file away at the same time is waited for. */
  private async begin(hashes: readonly string[]): Promise<void> {
    const at = this.now()
    await this.db
      .insert(fileBegun)
      .values([...new Set(hashes)].sort().map((hash) => ({ sha256: hash, at })))
      .onConflictDoUpdate({ target: fileBegun.sha256, set: { at } })
  }

  /** The same for bytes as they come, however many; nothing is kept of a stream that breaks off. */
  async putStream(stream: Readable, mediaType: string): Promise<string> {
    onlyOutside('a file was to be stored')
    const digest = createHash('sha256')
    let size = 0
    let hash = ''
    // It may break off before anybody reads: that is told to whoever reads.
    stream.on('error', () => undefined)
    const measured = async function* (this: FileStore) {
      for await (const chunk of stream as AsyncIterable<Buffer>) {
        digest.update(chunk)
        size += chunk.length
        yield chunk
      }
      hash = digest.digest('hex')
      await this.begin([hash])
    }
    await this.keeper.putStream(Readable.from(measured.call(this), { objectMode: false }), () => hash)
    await this.record(this.db, [{ sha256: hash, size, mediaType, createdAt: this.now() }])
    return hash
  }

  /** Whether a file is stored. */
  async has(db: Db, hash: string): Promise<boolean> {
    const [found] = await db.select({ size: file.size }).from(file).where(eq(file.sha256, hash))
    return found !== undefined
  }

  /** Whether a file is there with the bytes its name says. */
  isWhole(hash: string): Promise<boolean> {
    return this.keeper.get(hash).then(
      (bytes) => sha256(bytes) === hash,
      () => false,
    )
  }

  async get(hash: string): Promise<Uint8Array> {
    const bytes = await this.keeper.get(hash)
    if (sha256(bytes) !== hash) throw new Error(`Stored file ${hash} has other bytes than its name says.`)
    return bytes
  }

  /**
   * Takes a file out, record and bytes, if `unneeded` says so; `db` is a transaction. Not while somebody stores the same
   * bytes: whoever begins after this waits for its end, and keeps them again.
   */
  async remove(db: Db, hash: string, unneeded: () => Promise<boolean>): Promise<void> {
    const [mine] = await db
      .insert(fileBegun)
      .values({ sha256: hash, at: this.now() })
      .onConflictDoNothing()
      .returning({ sha256: fileBegun.sha256 })
    if (!mine || !(await unneeded())) return
    await db.delete(file).where(eq(file.sha256, hash))
    await this.keeper.remove(hash)
    await db.delete(fileBegun).where(eq(fileBegun.sha256, hash))
  }

  /** Removes what is left over: parts of files, and the bytes of those whose transaction never came to its end. */
  async sweep(): Promise<void> {
    await this.keeper.tidy()
    await this.db.transaction(async (db) => {
      const begun = await db
        .select({ sha256: fileBegun.sha256 })
        .from(fileBegun)
        .where(lt(fileBegun.at, new Date(this.now().getTime() - LONGEST)))
        .orderBy(fileBegun.at)
        .limit(1000)
        .for('update', { skipLocked: true })
      const hashes = begun.map((each) => each.sha256)
      if (hashes.length === 0) return
      const kept = new Set(
        (await db.select({ sha256: file.sha256 }).from(file).where(inArray(file.sha256, hashes))).map(
          (each) => each.sha256,
        ),
      )
      for (const hash of hashes) if (!kept.has(hash)) await this.keeper.remove(hash)
      await db.delete(fileBegun).where(inArray(fileBegun.sha256, hashes))
    })
  }
}
