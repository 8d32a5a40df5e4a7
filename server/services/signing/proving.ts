import { createHash, randomBytes, randomInt, randomUUID, scrypt, timingSafeEqual } from 'node:crypto'
import { promisify } from 'node:util'
import { and, count, desc, eq, gt } from 'drizzle-orm'
import { MOST_WRONG } from '#core/ceremony/parties.ts'
import { maskAddress, maskPhone } from '#core/evidence/evidence.ts'
import type { Act } from '#core/trail/acts.ts'
import type { App, Work, Ground } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { party, sentCode, shownProof } from '#server/db/schema.ts'
import { sha256 } from '#server/files/store.ts'
import { conflict, invalid, Refusal } from '#server/ground/problem.ts'
import { enqueueEmail } from '#server/services/agreements/mails.ts'
import { happened } from '#server/services/agreements/trail.ts'
import { tellSender } from '#server/services/agreements/parties.ts'
import { postText } from './texts.ts'
import { must, type Visit, visitOf, type Visitor } from './visit.ts'

/** Codes that one party may have sent within an hour, and how long one counts. */
const MOST_CODES = 5
const HOUR = 3_600_000
const COUNTS = 10 * 60_000
/** How long a browser that has shown who its person is need not show it again. */
const SHOWN = 12 * HOUR

const derive = promisify<string, Buffer, number, Buffer>(scrypt)

/** An agreed code as it is kept: salt and scrypt, in hex. */
export async function hashOfCode(code: string): Promise<string> {
  const salt = randomBytes(16)
  return `${salt.toString('hex')}:${(await derive(plain(code), salt, 32)).toString('hex')}`
}

async function isCode(code: string, kept: string): Promise<boolean> {
  const [salt, hash] = kept.split(':').map((part) => Buffer.from(part, 'hex'))
  return timingSafeEqual(await derive(plain(code), salt!, 32), hash!)
}

/** Spaces and case are nobody’s secret. */
const plain = (code: string) => code.replace(/\s+/g, '').toLowerCase()

/** Where a code goes, as whoever asks for it may see it. */
export const maskedBy = ({
  check,
  email,
  phone,
}: Pick<Visit['signer'], 'check' | 'email' | 'phone'>): string =>
  check === 'text code' ? maskPhone(phone) : maskAddress(email)

/** Sends a code for one use, by mail or text as the sender has set it. */
export async function sendCode(app: App, visitor: Visitor): Promise<void> {
  await transaction(app, async (work) => {
    const visit = await visitOf(work, visitor, true)
    must(visit, 'prove')
    const { signer, row, speaker, from } = visit
    if (signer.check !== 'mail code' && signer.check !== 'text code')
      throw conflict(speaker.say('refusal.mayNot'))
    if (signer.wrong >= MOST_WRONG) throw locked(visit)
    const [asked] = await work.db
      .select({ codes: count() })
      .from(sentCode)
      .where(and(eq(sentCode.partyId, signer.id), gt(sentCode.sentAt, new Date(work.now().getTime() - HOUR))))
    if ((asked?.codes ?? 0) >= MOST_CODES)
      throw new Refusal(429, 'Too many codes', speaker.say('check.tooMany'))
    const id = randomUUID()
    const code = String(randomInt(1_000_000)).padStart(6, '0')
    await work.db
      .insert(sentCode)
      .values({ id, partyId: signer.id, hash: codeHash(id, code), sentAt: work.now() })
    const said = { title: row.name, code, from }
    if (signer.check === 'text code')
      await postText(work, {
        key: `code:${id}`,
        agreementId: row.id,
        to: signer.phone,
        text: speaker.say('text.code', said),
      })
    else
      await enqueueEmail(work, {
        key: `code:${id}`,
        agreementId: row.id,
        partyId: signer.id,
        to: signer.email,
        subject: speaker.say('mail.oneCodeSubject', said),
        body: {
          language: speaker.language,
          greeting: speaker.say('mail.greeting', { name: signer.name }),
          paragraphs: [speaker.say('mail.oneCode', said), speaker.say('mail.oneCodeNot', said)],
          link: null,
          attachment: null,
        },
      })
    await happened(work, row.id, null, {
      act: 'code sent',
      detail: { role: signer.label, to: maskedBy(signer) },
    })
  })
}

/** The code’s own id salts it; a million of them are quickly tried, but nobody has the table, and it counts ten minutes. */
const codeHash = (id: string, code: string) => createHash('sha256').update(`${id}:${code}`).digest('hex')

const locked = ({ speaker, from }: Visit) => new Refusal(423, 'Locked', speaker.say('check.locked', { from }))

/**
 * Takes a code; answers what the browser is to keep as its proof. A wrong one is counted, noted and told, also where the same
 * request is refused: the count is committed first.
 */
export async function verifyCode(
  app: App,
  visitor: Visitor,
  code: string,
): Promise<{ readonly proof: string }> {
  const result = await transaction(app, async (work) => {
    const visit = await visitOf(work, visitor, true)
    must(visit, 'prove')
    const { signer, row } = visit
    if (signer.wrong >= MOST_WRONG) return { refusal: locked(visit) }
    const detail = { role: signer.label, check: signer.check, address: visitor.address }
    const right = await isRight(work, visit, code)
    if (right === 'old') return { refusal: invalid(visit.speaker.say('check.old')) }
    if (!right) {
      const left = MOST_WRONG - signer.wrong - 1
      await work.db
        .update(party)
        .set({ wrong: signer.wrong + 1 })
        .where(eq(party.id, signer.id))
      await happened(work, row.id, signer.name, {
        act: 'identity not shown',
        detail: { ...detail, left },
      })
      if (left === 0) await tellLocked(work, visit)
      return {
        refusal: left === 0 ? locked(visit) : invalid(visit.speaker.say('check.wrong', { count: left })),
      }
    }
    const proof = randomBytes(32).toString('base64url')
    await work.db.update(party).set({ wrong: 0 }).where(eq(party.id, signer.id))
    await work.db.insert(shownProof).values({
      tokenHash: sha256(proof),
      partyId: signer.id,
      check: signer.check,
      at: work.now(),
      expiresAt: new Date(work.now().getTime() + SHOWN),
      address: visitor.address,
    })
    const shown: Act = { act: 'identity shown', detail }
    await happened(work, row.id, signer.name, shown)
    return { proof }
  })
  if ('refusal' in result) throw result.refusal
  return result
}

async function isRight({ db, now }: Ground, { signer }: Visit, code: string): Promise<boolean | 'old'> {
  if (signer.check === 'agreed code') return isCode(code, signer.codeHash!)
  const [newest] = await db
    .select()
    .from(sentCode)
    .where(eq(sentCode.partyId, signer.id))
    .orderBy(desc(sentCode.sentAt))
    .limit(1)
  if (!newest || newest.usedAt || newest.sentAt.getTime() + COUNTS < now().getTime()) return 'old'
  const right = timingSafeEqual(Buffer.from(codeHash(newest.id, plain(code))), Buffer.from(newest.hash))
  if (right) await db.update(sentCode).set({ usedAt: now() }).where(eq(sentCode.id, newest.id))
  return right
}

async function tellLocked(work: Work, { signer, row }: Visit): Promise<void> {
  await tellSender(work, row, {
    key: `locked:${signer.id}:${work.now().toISOString()}`,
    subject: `Too many wrong codes: ${row.name}`,
    paragraphs: [
      `Somebody with the link of ${signer.name} (${signer.label}) gave ${MOST_WRONG} wrong codes. Nobody gets in by it now.`,
      'Ask them whether it was they. A new agreed code, a reminder, or another address lets them in again.',
    ],
  })
}
