import { eq } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { file } from '#server/db/schema.ts'
import { invalid, notFound } from '#server/ground/problem.ts'

/** Takes in a picture. Only what is a picture through and through is stored. */
export async function uploadPicture(app: App, by: Person, bytes: Uint8Array) {
  await requireMay(app, by, 'templates')
  const read = await app.pages.readPicture(bytes)
  if (!read.ok) throw invalid(read.problem)
  const stored = await app.files.put(bytes, read.mediaType)
  return { file: stored, width: read.width, height: read.height }
}

/** A picture's bytes; other files of the store are not found here. */
export async function picture(app: App, sha256: string): Promise<{ bytes: Uint8Array; mediaType: string }> {
  const [found] = await app.db.select().from(file).where(eq(file.sha256, sha256))
  if (!found?.mediaType.startsWith('image/')) throw notFound('picture')
  return { bytes: await app.files.get(sha256), mediaType: found.mediaType }
}
