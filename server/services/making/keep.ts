import type { ToldOrigin } from '#core/agreement/origin.ts'
import { routingActs } from '#core/trail/acts.ts'
import type { Work } from '#server/app/app.ts'
import { agreement } from '#server/db/schema.ts'
import { firstSteps, keepSteps, ownersOf, stateOf, tellSteps } from '#server/services/agreements/routes.ts'
import { acted, recordFirst } from '#server/services/agreements/trail.ts'
import type { ReservedNumber } from './reserve-numbers.ts'
import { approvalOf, type Drawn, keepRevisions, proofOf } from './revisions.ts'

/** An agreement drawn under its claim. */
export interface Made {
  readonly claim: ReservedNumber
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
  work: Work,
  { editionId, packetEditions, createdBy }: MadeFrom,
  made: readonly Made[],
): Promise<void> {
  const { db } = work
  const now = work.now()
  const owners = await ownersOf(
    db,
    made.map(({ claim, recordId }) => ({ id: claim.id, recordId, createdBy })),
  )
  const added = made.map((each) => {
    const agreementId = each.claim.id
    const approval = approvalOf(each.drawn, { owner: owners.get(agreementId) ?? null, changedClauses: null })
    return {
      ...each,
      agreementId,
      number: 1,
      approval,
      steps: firstSteps(agreementId, 1, approval.steps, now),
    }
  })
  await db.insert(agreement).values(
    added.map(({ claim, drawn, approval, steps, recordId, shapedBy }) => ({
      ...drawn.content,
      copies: [...new Set([...drawn.content.copies, ...approval.copies])],
      signDays: approval.signDays,
      id: claim.id,
      number: claim.number,
      editionId,
      packetEditions: [...packetEditions],
      state: stateOf(drawn.merged.people.length, steps),
      createdBy,
      shapedBy: [...shapedBy],
      createdAt: now,
      changedAt: now,
      recordId,
    })),
  )
  const documents = await keepRevisions(work, added)
  await keepSteps(
    db,
    added.flatMap(({ steps }) => steps),
  )
  await recordFirst(
    db,
    added.map(({ claim, drawn, told, approval, shapedBy }, i) => ({
      agreementId: claim.id,
      acts: [
        acted(drawn.author, now, {
          act: 'made',
          detail: { ...told, number: claim.number, document: documents[i]!, ...proofOf(drawn, shapedBy) },
        }),
        ...routingActs(approval.steps).map((act) => acted(null, now, act)),
      ],
    })),
  )
  for (const { agreementId, drawn, steps, shapedBy } of added)
    await tellSteps(
      work,
      { id: agreementId, name: drawn.content.name, shapedBy: [...shapedBy] },
      steps,
      drawn.rules.directory,
    )
}
