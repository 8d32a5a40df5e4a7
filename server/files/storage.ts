import type { Readable } from 'node:stream'

/**
 * Where the bytes of files lie: a folder, or a store that speaks S3's protocol. Names are SHA-256 in hex. Nothing is ever
 * there in part: a process that dies leaves a file whole or not at all.
 */
export interface FileStorage {
  /** Bytes of a file; null: it is not there. */
  sizeOf(name: string): Promise<number | null>
  put(name: string, bytes: Uint8Array): Promise<void>
  /** Keeps bytes as they come, however many, under the name that their end tells. */
  putStream(stream: Readable, nameAtEnd: () => string): Promise<void>
  /** Throws where it is not there. */
  get(name: string): Promise<Uint8Array>
  /** Without effect where it is not there. */
  remove(name: string): Promise<void>
  /** Removes what processes that died have left of files they had begun. */
  tidy(): Promise<void>
}
