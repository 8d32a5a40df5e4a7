import type { Bundle } from '#core/packet/bundle.ts'
import type { App } from '#server/app/app.ts'
import type { Work } from '#server/app/transaction.ts'
import type { Person } from '#contract/person.ts'
import type { AgreementRules } from '#core/rules/agreement-facts.ts'
import { claimOne, madeOn } from './claims.ts'
import { keepMade } from './keep.ts'
import type { Made, MadeFrom } from './keep.ts'
import { drawAgreement } from './revisions.ts'

/** One agreement that is no row of a run: what it is made of, by whom, and where it comes from. */
export interface Single extends Pick<Made, 'told' | 'recordId'> {
  readonly bundle: Bundle
  readonly made: Pick<MadeFrom, 'editionId' | 'packetEditions'>
  readonly series: string
  readonly origin: Parameters<typeof claimOne>[2]
  /** Names the asking, so that asking again is the same agreement. */
  readonly occasion: string
  readonly from: Parameters<typeof drawAgreement>[4]
  readonly rules: AgreementRules
  readonly by: Person
  /** Somebody else who had a part in what it says. */
  readonly shapedBy?: string
  /** Files that go along and have its number in them. */
  readonly along?: (number: string) => Promise<Parameters<typeof drawAgreement>[4]['extra']>
}

/**
 * Makes it, claimed, drawn and kept in the caller's transaction, so that what fails leaves neither a number nor anything else.
 * Asked again on the same occasion it is the one that was made then. Answers its id.
 */
export async function makeClaimed(app: App, work: Work, single: Single): Promise<string> {
  const { bundle, made, series, origin, occasion, from, rules, by, told, recordId, shapedBy, along } = single
  const { db } = work
  const claim = await claimOne(db, series, origin, occasion)
  // Asked twice at once: the other made it while this one waited.
  if (claim.had && (await madeOn(db, occasion))) return claim.id
  const terms = { rules, author: by.name, files: null, at: app.now() }
  const extra = along ? await along(claim.number) : from.extra
  const drawn = await drawAgreement(app, db, bundle, claim.number, { ...from, extra }, terms)
  await keepMade(app, work, { ...made, createdBy: by.id }, [
    { claim, drawn, told, recordId, shapedBy: [...new Set([by.id, shapedBy ?? by.id])] },
  ])
  return claim.id
}
