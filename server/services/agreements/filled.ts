import { and, eq, inArray } from 'drizzle-orm'
import { blanksOf, fillsItself, type PlacedBlank } from '#core/agreement/signing.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { blankValue, party } from '#server/db/schema.ts'
import type { Filled } from '#core/agreement/filled.ts'
import { notFound } from '#server/ground/problem.ts'

type Party = typeof party.$inferSelect

/** What a signer put into a blank, in words; `file`: it is a file to fetch. */
export interface FilledBlank {
  readonly blank: string
  readonly label: string
  readonly said: string
  readonly file: boolean
}

/**
 * What each party put into its blanks, in reading order, signatures and initials aside. It is theirs alone until they have
 * signed: before that, nothing.
 */
export async function filledBlanks(
  db: Db,
  parties: readonly Party[],
  blanks: readonly PlacedBlank[],
): Promise<ReadonlyMap<string, readonly FilledBlank[]>> {
  const signed = parties.filter(({ signedAt }) => signedAt !== null)
  if (signed.length === 0) return new Map()
  const values = await db
    .select()
    .from(blankValue)
    .where(
      inArray(
        blankValue.partyId,
        signed.map(({ id }) => id),
      ),
    )
  return new Map(
    signed.map(({ id, role }) => [
      id,
      blanksOf(blanks, role).flatMap((blank) => {
        const value = values.find(({ partyId, blankId }) => partyId === id && blankId === blank.id)?.value
        const said = inWords(blank, value)
        return said === null || fillsItself(blank)
          ? []
          : [{ blank: blank.id, label: blank.label, said, file: value?.kind === 'file' }]
      }),
    ]),
  )
}

function inWords({ rules = {} }: PlacedBlank, value: Filled | undefined): string | null {
  if (value === undefined) return rules.preset ?? null
  if (value.kind === 'text') return value.text
  if (value.kind === 'tick') return 'ticked'
  if (value.kind === 'choice') return value.chosen.map((at) => rules.options?.[at] ?? '').join(', ')
  return value.kind === 'file' ? value.name : null
}

/** A file that a signer handed in with an agreement, once they have signed. */
export async function handedIn(app: App, agreementId: string, partyId: string, blankId: string) {
  const [found] = await app.db
    .select({ value: blankValue.value, signedAt: party.signedAt })
    .from(blankValue)
    .innerJoin(party, eq(party.id, blankValue.partyId))
    .where(and(eq(party.agreementId, agreementId), eq(party.id, partyId), eq(blankValue.blankId, blankId)))
  if (!found?.signedAt || found.value.kind !== 'file') throw notFound('file')
  return { bytes: await app.files.get(found.value.sha256), name: found.value.name }
}
