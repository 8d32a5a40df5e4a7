import { join } from 'node:path'
import type { Settings } from '#server/ground/settings.ts'
import { FolderKeeper } from './folder-keeper.ts'
import type { Keeper } from './keeper.ts'

/** The keeper of the settings; what a store needs is read only where there is one. */
export async function openKeeper({ bucket, dataFolder }: Settings): Promise<Keeper> {
  if (!bucket) return new FolderKeeper(join(dataFolder, 'files'))
  const { S3Keeper } = await import('./s3-keeper.ts')
  return new S3Keeper(bucket)
}
