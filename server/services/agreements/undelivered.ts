import { and, eq, inArray, isNotNull, isNull, sql } from 'drizzle-orm'
import type { Db } from '#server/db/connect.ts'
import { agreement, mail, party } from '#server/db/schema.ts'

/** Whether nothing was written to that address of an agreement since; mails have an index by their agreement. */
export const isLast = sql`not exists (select 1 from ${mail} later
  where later.agreement_id = ${mail.agreementId} and later.party_id = ${mail.partyId}
  and later."to" = ${mail.to} and later.created_at > ${mail.createdAt})`

/** Mails to parties who hold up what is out, or for whom it was, that did not reach the address they have now. */
export const undelivered = (db: Db) =>
  db
    .selectDistinctOn([agreement.id, mail.to], {
      id: agreement.id,
      number: agreement.number,
      name: agreement.name,
      to: mail.to,
      problem: sql<string>`coalesce(${mail.problem}, '')`,
    })
    .from(mail)
    .innerJoin(party, and(eq(party.id, mail.partyId), eq(party.email, mail.to)))
    .innerJoin(
      agreement,
      and(
        eq(agreement.id, party.agreementId),
        eq(agreement.revision, party.revision),
        inArray(agreement.state, ['out', 'delivered']),
      ),
    )

export const isLost = and(isNotNull(mail.undeliverableAt), isNull(party.signedAt), isLast)

/** Of these agreements, those with an email that came back and was not sent anew. */
export const undeliveredAmong = async (
  db: Db,
  rows: readonly { readonly agreement: typeof agreement.$inferSelect }[],
) =>
  rows.length === 0
    ? []
    : undelivered(db).where(
        and(
          isLost,
          inArray(
            agreement.id,
            rows.map((row) => row.agreement.id),
          ),
        ),
      )
