import { join } from 'node:path'
import type { Settings } from '#server/ground/settings.ts'
import { FolderStorage } from './folder-storage.ts'
import type { FileStorage } from './storage.ts'

/** The keeper of the settings; what a store needs is read only where there is one. */
export async function openStorage({ bucket, dataFolder }: Settings): Promise<FileStorage> {
  if (!bucket) return new FolderStorage(join(dataFolder, 'files'))
  const { S3Storage } = await import('./s3-storage.ts')
  return new S3Storage(bucket)
}
