import { randomBytes } from 'node:crypto'
import { and, eq, gt } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { runOutput } from '#server/db/schema.ts'
import { sha256 } from '#server/files/store.ts'
import { notFound } from '#server/ground/problem.ts'
import { outputOf, stored, type StoredOutput } from './run-outputs.ts'

/** A link by which anyone may fetch the file until a day; a new one ends the one before. Its token is told only here. */
export async function shareOutput(app: App, by: Person, runId: string, id: string, days: number) {
  await requireMay(app, by, 'send')
  const token = randomBytes(32).toString('base64url')
  const expiresAt = new Date(app.now().getTime() + days * 86_400_000)
  const [shared] = await app.db
    .update(runOutput)
    .set({ tokenHash: sha256(token), expiresAt })
    .where(and(outputOf(runId, id), eq(runOutput.state, 'ready')))
    .returning({ id: runOutput.id })
  if (!shared) throw notFound('file')
  return { url: `${app.settings.publicUrl}/api/shared/${token}`, until: expiresAt.toISOString() }
}

/** Ends a shared link: it leads nowhere any more. */
export async function endShare(app: App, by: Person, runId: string, id: string): Promise<void> {
  await requireMay(app, by, 'send')
  await app.db.update(runOutput).set({ tokenHash: null, expiresAt: null }).where(outputOf(runId, id))
}

/** The output that a link leads to. */
export async function sharedOutput(app: App, token: string): Promise<StoredOutput> {
  const [found] = await app.db
    .select()
    .from(runOutput)
    .where(and(eq(runOutput.tokenHash, sha256(token)), gt(runOutput.expiresAt, app.now())))
  return stored(app, found)
}
