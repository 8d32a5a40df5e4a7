import { randomUUID } from 'node:crypto'
import { createReadStream, createWriteStream } from 'node:fs'
import { rm, stat } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import {
  DeleteObjectCommand,
  GetObjectCommand,
  HeadObjectCommand,
  NoSuchKey,
  NotFound,
  PutObjectCommand,
  S3Client,
} from '@aws-sdk/client-s3'
import type { Bucket } from '#server/ground/settings.ts'
import type { FileStorage } from './storage.ts'

/** Milliseconds without an answer after which a request is tried again. */
const PATIENCE = { connectionTimeout: 3_000, requestTimeout: 30_000 }
const ATTEMPTS = 4

/** Keeps files as objects of a bucket. Putting an object is whole or not at all by the protocol. */
export class S3Storage implements FileStorage {
  private readonly client: S3Client

  constructor(private readonly bucket: Bucket) {
    const { endpoint, region } = bucket
    // Said at every start of every process, of versions to come.
    process.env['AWS_SDK_JS_NODE_VERSION_SUPPORT_WARNING_DISABLED'] ??= 'true'
    this.client = new S3Client({
      region,
      ...(endpoint ? { endpoint, forcePathStyle: true } : {}),
      maxAttempts: ATTEMPTS,
      requestHandler: PATIENCE,
      // Stores other than the protocol's owner know the older checksums only; a file's name is its checksum anyway.
      requestChecksumCalculation: 'WHEN_REQUIRED',
      responseChecksumValidation: 'WHEN_REQUIRED',
    })
  }

  private at(name: string) {
    return { Bucket: this.bucket.name, Key: `${this.bucket.prefix}${name}` }
  }

  sizeOf(name: string): Promise<number | null> {
    return this.client.send(new HeadObjectCommand(this.at(name))).then(
      ({ ContentLength }) => ContentLength ?? null,
      (error: unknown) => {
        if (error instanceof NotFound || error instanceof NoSuchKey) return null
        throw error
      },
    )
  }

  async put(name: string, bytes: Uint8Array): Promise<void> {
    await this.client.send(
      new PutObjectCommand({ ...this.at(name), Body: bytes, ContentLength: bytes.length }),
    )
  }

  /** By a file of this machine's own: an object's length and name are told before its bytes. */
  async putStream(stream: Readable, nameAtEnd: () => string): Promise<void> {
    const path = join(tmpdir(), `brevan-${randomUUID()}`)
    try {
      await pipeline(stream, createWriteStream(path, { flags: 'wx', mode: 0o600 }))
      const { size } = await stat(path)
      await this.client.send(
        new PutObjectCommand({
          ...this.at(nameAtEnd()),
          Body: createReadStream(path),
          ContentLength: size,
        }),
      )
    } finally {
      await rm(path, { force: true })
    }
  }

  async get(name: string): Promise<Uint8Array> {
    const { Body } = await this.client.send(new GetObjectCommand(this.at(name)))
    if (!Body) throw new Error(`The store has no bytes of ${name}.`)
    return Body.transformToByteArray()
  }

  async remove(name: string): Promise<void> {
    await this.client.send(new DeleteObjectCommand(this.at(name)))
  }

  /** A request that breaks off leaves nothing. */
  async tidy(): Promise<void> {}
}
