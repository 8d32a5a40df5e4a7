import { mkdtemp, readdir, rm, utimes, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { expect } from 'chai'
import { FolderStorage } from '#server/files/folder-storage.ts'
import type { FileStorage } from '#server/files/storage.ts'
import { S3Storage } from '#server/files/s3-storage.ts'
import { FileRecords, FileStore, sha256 } from '#server/files/store.ts'
import { startBucket, type TestBucket } from '#test/support/bucket.ts'
import { eventually } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'

const bytes = (text: string) => new TextEncoder().encode(text)
const failure = (act: Promise<unknown>) =>
  act.then(
    () => null,
    (error: unknown) => error,
  )

describe('files', () => {
  let running: Running
  let folder = ''
  let bucket: TestBucket
  const keepers: Record<string, () => FileStorage> = {
    'in a folder': () => new FolderStorage(folder),
    'in a bucket': () =>
      new S3Storage({
        name: 'agreements',
        prefix: 'test/',
        endpoint: bucket.env['S3_ENDPOINT']!,
        region: 'us-east-1',
      }),
  }

  before(async () => {
    running = await startApp('files', { demo: false, worker: false })
    folder = await mkdtemp(join(tmpdir(), 'brevan-files-'))
    bucket = await startBucket()
    for (const name of ['AWS_ACCESS_KEY_ID', 'AWS_SECRET_ACCESS_KEY']) process.env[name] = bucket.env[name]
  })
  after(async () => {
    await bucket?.stop()
    await running?.stop()
    await rm(folder, { recursive: true, force: true })
  })

  for (const [where, open] of Object.entries(keepers))
    describe(where, () => {
      const store = () => new FileStore(open(), running.app.db, () => new Date())
      const { put, old, recorded } = {
        put: (text: string) => store().put(bytes(`${where}: ${text}`), 'text/plain'),
        /** As if it had been begun two hours ago. */
        old: (hash: string) =>
          running.app.pool.query(`update file_begun set at = now() - interval '2 hours' where sha256 = $1`, [
            hash,
          ]),
        recorded: (hash: string) => running.app.pool.query('select from file where sha256 = $1', [hash]),
      }

      it('come back byte for byte, of any length, and stored again are one', async () => {
        for (const each of [new Uint8Array(), bytes('ä'), new Uint8Array(3_000_000).fill(7)]) {
          const hash = await store().put(each, 'text/plain')
          expect(hash).to.equal(sha256(each))
          expect(Buffer.from(await store().get(hash)).equals(each)).to.equal(true)
          expect(await open().sizeOf(hash)).to.equal(each.length)
        }
        const hashes = await Promise.all(Array.from({ length: 8 }, () => put('the same')))
        expect(new Set(hashes).size).to.equal(1)
        expect((await recorded(hashes[0]!)).rowCount).to.equal(1)
      })

      it('are kept as they come; of a stream that breaks off nothing is', async () => {
        const parts = Array.from({ length: 40 }, (_, i) => Buffer.alloc(50_000, `${where} ${i}`))
        const hash = await store().putStream(Readable.from(parts), 'application/zip')
        expect(hash).to.equal(sha256(Buffer.concat(parts)))
        expect(await store().isWhole(hash)).to.equal(true)
        const broken = Readable.from(
          (function* () {
            yield parts[0]!
            throw new Error('the line is dead')
          })(),
        )
        const told = await failure(store().putStream(broken, 'application/zip'))
        expect((told as Error).message).to.equal('the line is dead')
        expect(await open().sizeOf(sha256(parts[0]!))).to.equal(null)
      })

      it('that are not there say so', async () => {
        const none = sha256('none')
        expect(await open().sizeOf(none)).to.equal(null)
        expect(await store().isWhole(none)).to.equal(false)
        expect(await failure(store().get(none))).to.be.instanceOf(Error)
        await open().remove(none)
      })

      it('with other bytes than their name says are not given out', async () => {
        const hash = await put('as it was')
        await open().put(hash, bytes('as it was not'))
        expect(await store().isWhole(hash)).to.equal(false)
        expect(((await failure(store().get(hash))) as Error).message).to.contain('other bytes')
      })

      it('whose transaction fails are swept after an hour, by the database; the others stay', async () => {
        const stored = await store().store([bytes(`${where}: lost`)], 'text/plain')
        const lost = stored[0]!.sha256
        await failure(
          running.app.db.transaction(async (db) => {
            await new FileRecords(db, () => new Date()).record(stored)
            throw new Error('rolled back')
          }),
        )
        const kept = await put('kept')
        await store().sweep()
        expect(await open().sizeOf(lost), 'younger than an hour').not.to.equal(null)
        await old(lost)
        await old(kept)
        await store().sweep()
        expect(await open().sizeOf(lost)).to.equal(null)
        expect(await store().isWhole(kept)).to.equal(true)
      })

      it('taken away while somebody stores the same bytes are there in the end', async () => {
        for (let round = 0; round < 10; round++) {
          const hash = await put(`round ${round}`)
          await old(hash)
          await store().sweep()
          await Promise.all([
            running.app.db.transaction((db) =>
              new FileRecords(db, () => new Date()).forget(hash, () => Promise.resolve(true)),
            ),
            put(`round ${round}`),
          ])
          await old(hash)
          await Promise.all([store().sweep(), round % 2 ? put(`round ${round}`) : null])
          const { rowCount } = await recorded(hash)
          // Whichever came first: a record has its bytes.
          if (rowCount) expect(await store().isWhole(hash), `round ${round}`).to.equal(true)
          else expect(await open().sizeOf(hash)).to.equal(null)
        }
      })
    })

  it('begun in a folder by a process that died are tidied up, those being written are not', async () => {
    const keeper = new FolderStorage(folder)
    const slow = new Readable({ read: () => undefined })
    const writing = keeper.putStream(slow, () => sha256('slow'))
    slow.push('begun')
    const parts = () => readdir(join(folder, 'parts')).catch(() => [])
    await eventually(async () => (await parts()).length === 1, 'the part that is being written')
    await keeper.tidy()
    expect(await readdir(join(folder, 'parts'))).to.have.length(1)
    slow.push(null)
    await writing
    expect(await keeper.sizeOf(sha256('slow'))).to.equal(5)
    const left = join(folder, 'parts', 'left')
    await writeFile(left, 'half')
    const before = new Date(Date.now() - 60_000)
    await utimes(left, before, before)
    await keeper.tidy()
    expect(await readdir(join(folder, 'parts'))).to.deep.equal([])
  })

  it('of a store that is away are refused within seconds, not waited for', async () => {
    const away = new S3Storage({ name: 'nowhere', prefix: '', endpoint: 'http://127.0.0.1:9', region: 'x' })
    expect(await failure(away.get(sha256('x')))).to.be.instanceOf(Error)
  })
})
