import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import S3rver from 's3rver'

/** A store that speaks S3's protocol, of another hand than the client: the package `s3rver`, on loopback. */
export interface TestBucket {
  readonly port: number
  /** What makes the app keep its files there. */
  readonly env: NodeJS.ProcessEnv
  stop(): Promise<void>
}

const NAME = 'agreements'

export async function startBucket(): Promise<TestBucket> {
  const directory = await mkdtemp(join(tmpdir(), 'brevan-bucket-'))
  const server = new S3rver({
    address: '127.0.0.1',
    port: 0,
    silent: true,
    directory,
    configureBuckets: [{ name: NAME }],
  })
  const { port } = await server.run()
  return {
    port,
    env: {
      BREVAN_FILES: `s3://${NAME}/files`,
      S3_ENDPOINT: `http://127.0.0.1:${port}`,
      AWS_ACCESS_KEY_ID: 'S3RVER',
      AWS_SECRET_ACCESS_KEY: 'S3RVER',
    },
    async stop() {
      await server.close()
      await rm(directory, { recursive: true, force: true })
    },
  }
}
