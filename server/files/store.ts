import { createHash } from 'node:crypto'
import { Readable } from 'node:stream'
import { and, eq, lt } from 'drizzle-orm'
import { file, fileBegun } from '#server/db/schema.ts'
import type { Db } from '#server/db/connect.ts'
import { onlyOutside } from '#server/db/open-transaction.ts'
import type { FileStorage } from './storage.ts'

/** SHA-256 in hex. */
export const sha256 = (bytes: Uint8Array | string): string => createHash('sha256').update(bytes).digest('hex')

/** A file whose bytes are stored, as it will be recorded. */
export type StoredFile = Pick<typeof file.$inferInsert, 'size' | 'mediaType' | 'createdAt'> & {
  readonly sha256: string
}

/** Milliseconds after which a transaction that had stored files has ended one way or the other. */
const LONGEST = 3_600_000

/** Which files there are, as the database has them. */
export class FileRecords {
  constructor(
    protected readonly db: Db,
    protected readonly now: () => Date,
  ) {}

  /** Records stored files: in a transaction, from its end on they are there. */
  async record(stored: readonly StoredFile[]): Promise<void> {
    if (stored.length === 0) return
    await this.db
      .insert(file)
      // In one order for everybody: two who store the same files would wait for each other otherwise.
      .values([...stored].sort((a, b) => (a.sha256 < b.sha256 ? -1 : 1)))
      .onConflictDoNothing()
  }

  /** Whether a file is stored. */
  async has(hash: string): Promise<boolean> {
    const [found] = await this.db.select({ size: file.size }).from(file).where(eq(file.sha256, hash))
    return found !== undefined
  }

  /**
   * Takes a file's record away in a transaction, if `unneeded` says so; its bytes go with the sweep. Not while somebody stores the
   * same bytes: they are there, or this waits until they are.
   */
  async forget(hash: string, unneeded: () => Promise<boolean>): Promise<void> {
    const [mine] = await this.db
      .insert(fileBegun)
      .values({ sha256: hash, at: this.now() })
      .onConflictDoNothing()
      .returning({ sha256: fileBegun.sha256 })
    if (mine && (await unneeded())) await this.db.delete(file).where(eq(file.sha256, hash))
  }
}

/**
 * Files under their SHA-256: the same bytes are kept once, and a name never changes what it means. That a file is begun is
 * told the database before its bytes are kept, that it is there in the transaction that records it: what is left over is known
 * without looking through the keeper.
 */
export class FileStore extends FileRecords {
  constructor(
    private readonly keeper: FileStorage,
    db: Db,
    now: () => Date,
  ) {
    super(db, now)
  }

  /** Stores the bytes and records them at once; outside any transaction. Storing again is without effect. */
  async put(bytes: Uint8Array, mediaType: string): Promise<string> {
    const stored = await this.store([bytes], mediaType)
    await this.record(stored)
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

  /** Told at once; waits for a sweep that takes the same file away at the same time. */
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
    await this.record([{ sha256: hash, size, mediaType, createdAt: this.now() }])
    return hash
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

  /** Removes what is left over: parts of files, and the bytes of those that nothing recorded within an hour. */
  async sweep(): Promise<void> {
    await this.keeper.tidy()
    const begun = await this.db
      .select({ sha256: fileBegun.sha256 })
      .from(fileBegun)
      .where(this.isOld())
      .orderBy(fileBegun.at)
      .limit(1000)
    for (const { sha256: hash } of begun) await this.sweepOne(hash)
  }

  private readonly isOld = () => lt(fileBegun.at, new Date(this.now().getTime() - LONGEST))

  /** Whoever stores the same bytes meanwhile waits until these are gone, and keeps them again. */
  private sweepOne(hash: string): Promise<void> {
    return this.db.transaction(async (db) => {
      const [mine] = await db
        .select()
        .from(fileBegun)
        .where(and(eq(fileBegun.sha256, hash), this.isOld()))
        .for('update', { skipLocked: true })
      if (!mine) return
      if (!(await new FileRecords(db, this.now).has(hash))) await this.keeper.remove(hash)
      await db.delete(fileBegun).where(eq(fileBegun.sha256, hash))
    })
  }
}
