import type { ToldOrigin } from '#core/agreement/origin.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement } from '#server/db/schema.ts'
import { acted, recordFirst } from '#server/services/agreements/trail.ts'
import type { Claim } from './claims.ts'
import { approvalOf, keepRevisions, keepSteps, proofOf } from './revisions.ts'
import type { Drawn } from './revisions.ts'

/** An agreement drawn under its claim. */
export interface Made {
  readonly claim: Claim
  readonly drawn: Drawn
  /** Where it comes from, as the trail says it. */
  readonly told: ToldOrigin
  readonly recordId: string | null
  /** Whoever has a part in what it says: none of them may approve it. */
  readonly shapedBy: readonly string[]
}

/** What agreements that are kept together have in common. */
export interface MadeFrom {
  readonly editionId: string
  readonly packetEditions: readonly string[]
  readonly createdBy: string
}

/** Keeps new agreements with their documents, parties, approvals and the beginning of their trails. */
export async function keepMade(
  app: App,
  db: Db,
  { editionId, packetEditions, createdBy }: MadeFrom,
  made: readonly Made[],
): Promise<void> {
  const now = app.now()
  const added = made.map((each) => ({
    ...each,
    agreementId: each.claim.id,
    number: 1,
    approval: approvalOf(each.drawn, false, now),
  }))
  await db.insert(agreement).values(
    added.map(({ claim, drawn, approval, recordId, shapedBy }) => ({
      id: claim.id,
      number: claim.number,
      editionId,
      packetEditions: [...packetEditions],
      state: approval.state,
      createdBy,
      shapedBy: [...shapedBy],
      createdAt: now,
      changedAt: now,
      recordId,
      ...drawn.content,
    })),
  )
  const documents = await keepRevisions(app, db, added)
  await keepSteps(db, added)
  await recordFirst(
    db,
    added.map(({ claim, drawn, told, approval }, i) => ({
      agreementId: claim.id,
      acts: [
        acted(drawn.author, now, {
          act: 'made',
          detail: { ...told, number: claim.number, document: documents[i]!, ...proofOf(drawn) },
        }),
        ...approval.acts.map((act) => acted(null, now, act)),
      ],
    })),
  )
}
