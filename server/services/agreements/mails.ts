import { randomBytes } from 'node:crypto'
import type { Work } from '#server/app/app.ts'
import { mail, type MailBody } from '#server/db/schema.ts'

/** A mail to be written. */
export interface NewMail {
  /** Names the occasion, such as `invite:<party>`: the same occasion is written once. */
  readonly key: string
  readonly agreementId: string | null
  /** The party it is for, if it is for one. */
  readonly partyId?: string
  readonly to: string
  readonly subject: string
  readonly body: MailBody
}

/** Writes a mail to be sent once the transaction commits. */
export async function enqueueEmail({ db, now, enqueue }: Work, written: NewMail): Promise<void> {
  const [made] = await db
    .insert(mail)
    .values({ ...written, returnToken: randomBytes(16).toString('hex'), createdAt: now() })
    .onConflictDoNothing()
    .returning({ key: mail.key })
  if (made) await enqueue('send-mail', { key: made.key })
}
