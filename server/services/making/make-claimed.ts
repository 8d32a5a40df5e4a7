import { eq } from 'drizzle-orm'
import type { Bundle } from '#core/packet/bundle.ts'
import type { App, Work } from '#server/app/app.ts'
import type { Person } from '#contract/person.ts'
import type { AgreementRules } from '#core/rules/agreement-facts.ts'
import type { StoredFile } from '#server/files/store.ts'
import { transaction } from '#server/app/transaction.ts'
import { claim as claims } from '#server/db/schema.ts'
import { conflict } from '#server/ground/problem.ts'
import { madeOn, releaseNumbers, type ReservedNumber, reserveNumber } from './reserve-numbers.ts'
import { keepMade, type Made, type MadeFrom } from './keep.ts'
import { drawAgreement, type Drawn } from './revisions.ts'

/** One agreement that is no row of a run: what it is made of, by whom, and where it comes from. */
export interface Single extends Pick<Made, 'told' | 'recordId'> {
  readonly bundle: Bundle
  readonly made: Pick<MadeFrom, 'editionId' | 'packetEditions'>
  readonly series: string
  readonly origin: Parameters<typeof reserveNumber>[2]
  /** Names the asking, so that asking again is the same agreement. */
  readonly occasion: string
  readonly from: Parameters<typeof drawAgreement>[3]
  readonly rules: AgreementRules
  readonly by: Person
  /** Somebody else who had a part in what it says. */
  readonly shapedBy?: string
  /** Files that go along and have its number in them. */
  readonly along?: (
    number: string,
  ) => Promise<readonly { readonly name: string; readonly file: StoredFile }[]>
}

/** A single agreement, drawn under its claim; nothing of it counts before it is kept. */
export interface ReadySingle {
  readonly single: Single
  readonly claim: ReservedNumber
  readonly drawn: Drawn
}

/** What `act` of `makeClaimed` may still say of an agreement when it is kept. */
export type Kept = Partial<Pick<Single, 'recordId'>>

/**
 * Makes agreements that belong together: claimed, drawn and their files stored without any lock, then kept in one short
 * transaction with whatever `act` does in it; `keep` of it keeps them, and answers their ids in order. Where anything fails,
 * nothing of them is left, neither numbers. Asked again on the same occasion they are those that were made then.
 */
export async function makeClaimed<T>(
  app: App,
  singles: readonly Single[],
  act: (work: Work, keep: (kept?: Kept) => Promise<readonly string[]>) => Promise<T>,
): Promise<T> {
  const ready: ReadySingle[] = []
  const claims: ReservedNumber[] = []
  try {
    for (const single of singles) {
      const claim = await reserveNumber(app, single.series, single.origin, single.occasion)
      claims.push(claim)
      ready.push({ single, claim, drawn: await drawSingle(app, single, claim.number) })
    }
    return await transaction(app, (work) => act(work, (kept) => keepReady(work, ready, kept)))
  } catch (error) {
    await releaseNumbers(
      app,
      claims.map(({ id }) => id),
    )
    throw error
  }
}

async function drawSingle(app: App, single: Single, number: string): Promise<Drawn> {
  const { bundle, from, rules, by, along } = single
  const terms = { rules, author: by.name, files: null, at: app.now() }
  const extra = along ? await along(number) : []
  const drawn = await drawAgreement(app, bundle, number, from, terms)
  const stored = [...drawn.stored, ...extra.map(({ file }) => file)] as const
  const content = {
    ...drawn.content,
    extra: [...drawn.content.extra, ...extra.map(({ name, file }) => ({ name, sha256: file.sha256 }))],
  }
  return { ...drawn, stored, content }
}

async function keepReady(
  work: Work,
  ready: readonly ReadySingle[],
  kept: Kept = {},
): Promise<readonly string[]> {
  for (const { single, claim, drawn } of ready) {
    // Asked twice at once: whoever comes second finds what the first has made, or that it was given back.
    const [there] = await work.db
      .select({ id: claims.id })
      .from(claims)
      .where(eq(claims.id, claim.id))
      .for('update')
    if (!there) throw conflict('It was being made by another call, which failed. Ask again.')
    if (await madeOn(work.db, single.occasion)) continue
    const { made, told, recordId, shapedBy, by } = { ...single, ...kept }
    await keepMade(work, { ...made, createdBy: by.id }, [
      { claim, drawn, told, recordId, shapedBy: [...new Set([by.id, shapedBy ?? by.id])] },
    ])
  }
  return ready.map(({ claim }) => claim.id)
}
