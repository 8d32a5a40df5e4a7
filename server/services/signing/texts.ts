import { eq } from 'drizzle-orm'
import type { App, Work } from '#server/app/app.ts'
import { textMessage } from '#server/db/schema.ts'
import { sendText } from '#server/post/texter.ts'

/** Writes a text to be sent to a telephone once the transaction commits; the same occasion is written once. */
export async function postText(
  { db, now, enqueue }: Work,
  written: { readonly key: string; readonly agreementId: string; readonly to: string; readonly text: string },
): Promise<void> {
  const [made] = await db
    .insert(textMessage)
    .values({ ...written, createdAt: now() })
    .onConflictDoNothing()
    .returning({ key: textMessage.key })
  if (made) await enqueue('send-text', { key: made.key })
}

/** Job: hands one text to the gateway. The key is its reference there, so that one handed over twice is one. */
export async function deliverText(app: App, key: string): Promise<void> {
  const [found] = await app.db.select().from(textMessage).where(eq(textMessage.key, key))
  if (!found || found.sentAt || found.text === null) return
  try {
    await sendText(app.settings, { to: found.to, text: found.text, reference: key })
  } catch (error) {
    const problem = error instanceof Error ? error.message : String(error)
    await app.db.update(textMessage).set({ problem }).where(eq(textMessage.key, key))
    throw error
  }
  await app.db
    .update(textMessage)
    .set({ sentAt: app.now(), text: null, problem: null })
    .where(eq(textMessage.key, key))
}
