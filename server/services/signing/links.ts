import { randomBytes } from 'node:crypto'
import { and, eq, gt, isNull } from 'drizzle-orm'
import type { LinkEnd } from '#core/ceremony/gates.ts'
import type { Db } from '#server/db/connect.ts'
import { link, shownProof } from '#server/db/schema.ts'
import { sha256 } from '#server/files/store.ts'

/** Bytes of a link's token: 256 bit, which nobody guesses. */
const BYTES = 32

/** A new link of a party's; answers its token, which is kept nowhere but in what is sent. */
export async function newLink(
  db: Db,
  partyId: string,
  at: Date,
  {
    atDeviceOf = null,
    fromForm = false,
  }: { readonly atDeviceOf?: string | null; readonly fromForm?: boolean } = {},
): Promise<string> {
  const token = randomBytes(BYTES).toString('base64url')
  await db.insert(link).values({ tokenHash: sha256(token), partyId, madeAt: at, atDeviceOf, fromForm })
  return token
}

/** Ends all links that a party has; each says why from now on. */
export async function endLinks(db: Db, partyId: string, why: LinkEnd, at: Date): Promise<void> {
  await db
    .update(link)
    .set({ ended: why, endedAt: at })
    .where(and(eq(link.partyId, partyId), isNull(link.ended)))
}

/** Whose link it is, and whether it still holds; undefined: nobody's. */
export async function linkOf(
  db: Db,
  token: string,
): Promise<
  | {
      readonly partyId: string
      readonly ended: LinkEnd | null
      readonly atDeviceOf: string | null
      readonly fromForm: boolean
    }
  | undefined
> {
  const [found] = await db
    .select({
      partyId: link.partyId,
      ended: link.ended,
      atDeviceOf: link.atDeviceOf,
      fromForm: link.fromForm,
    })
    .from(link)
    .where(eq(link.tokenHash, sha256(token)))
  return found
}

/** Whether a browser has shown within half a day who its person is. */
export async function hasShown(db: Db, partyId: string, proof: string | null, now: Date): Promise<boolean> {
  if (!proof) return false
  const [found] = await db
    .select({ partyId: shownProof.partyId })
    .from(shownProof)
    .where(
      and(
        eq(shownProof.tokenHash, sha256(proof)),
        eq(shownProof.partyId, partyId),
        gt(shownProof.expiresAt, now),
      ),
    )
  return found !== undefined
}
