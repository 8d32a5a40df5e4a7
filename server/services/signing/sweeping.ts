import { and, eq, isNull, lt, sql } from 'drizzle-orm'
import type { App } from '#server/app/app.ts'
import {
  agreement,
  blankValue,
  file,
  handedFile,
  link,
  party,
  rateLimit,
  sentCode,
  shownProof,
} from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { HANDED_IN } from './handed-in.ts'

/** Milliseconds after which a file that was handed in and stands in no blank is left over. */
const LEFT_OVER = 86_400_000

/** Job, nightly: what signers handed in and took back again, and tries to sign in of former days, are cleaned up. */
export async function sweepNight(app: App): Promise<void> {
  await app.db.delete(rateLimit).where(lt(rateLimit.expire, Date.now()))
  const old = new Date(app.now().getTime() - LEFT_OVER)
  await expireLinks(app)
  const inBlank = sql`exists (
    select from ${blankValue} where ${blankValue.partyId} = ${handedFile.partyId}
      and ${blankValue.value}->>'sha256' = ${handedFile.sha256})`
  await app.db.delete(handedFile).where(and(lt(handedFile.at, old), sql`not ${inBlank}`))
  const unnamed = await app.db
    .select({ sha256: file.sha256 })
    .from(file)
    .where(
      and(
        eq(file.mediaType, HANDED_IN),
        lt(file.createdAt, old),
        sql`not exists (select from ${handedFile} where ${handedFile.sha256} = ${file.sha256})`,
      ),
    )
  for (const { sha256 } of unnamed) await dropFile(app, sha256)
}

/** Milliseconds after which links to what has ended lead to nothing any more: whoever wants a copy has had it by mail. */
const LINKS_LAST = 90 * 86_400_000

/** Links to agreements that ended long ago expire; codes and proofs that count no more go. */
async function expireLinks(app: App): Promise<void> {
  const now = app.now()
  const ended = sql`select ${party.id} from ${party} join ${agreement} on ${agreement.id} = ${party.agreementId}
    where ${agreement.state} in ('executed', 'declined', 'lapsed', 'withdrawn')
      and ${agreement.changedAt} < ${new Date(now.getTime() - LINKS_LAST).toISOString()}::timestamptz`
  await app.db
    .update(link)
    .set({ ended: 'expired', endedAt: now })
    .where(and(isNull(link.ended), sql`${link.partyId} in (${ended})`))
  await app.db.delete(shownProof).where(lt(shownProof.expiresAt, now))
  await app.db.delete(sentCode).where(lt(sentCode.sentAt, new Date(now.getTime() - LEFT_OVER)))
}

/** Takes a file away for good, unless anything else names it: the same bytes may be somebody's sheet or picture. */
async function dropFile(app: App, sha256: string): Promise<void> {
  const isNamed = sql`
    select exists (select from sheet where file_sha256 = ${sha256})
      or exists (select from revision where file_sha256 = ${sha256})
      or exists (select from agreement where executed_sha256 = ${sha256} or extra @> ${JSON.stringify([{ sha256 }])}::jsonb)
      or exists (select from paper_page where sha256 = ${sha256})
      or exists (select from page_file where sha256 = ${sha256})
      or exists (select from party where paper->>'sha256' = ${sha256})
      or exists (select from agreement where introduction->>'sha256' = ${sha256})
      or exists (select from run_file where sha256 = ${sha256})
      or exists (select from run_output where file_sha256 = ${sha256})
      or exists (select from intake_file where sha256 = ${sha256})
      or exists (select from record_file where sha256 = ${sha256})
      or exists (select from received_mail where attachments @> ${JSON.stringify([{ sha256 }])}::jsonb)
      or exists (select from ${blankValue} join ${party} on ${party.id} = ${blankValue.partyId} where ${blankValue.value}->>'sha256' = ${sha256})
      as named`
  await transaction(app, ({ db, files }) =>
    files.forget(sha256, async () => {
      await db.select().from(file).where(eq(file.sha256, sha256)).for('update')
      const { rows } = await db.execute<{ named: boolean }>(isNamed)
      return !rows[0]!.named
    }),
  )
}
