import { randomUUID } from 'node:crypto'
import { and, asc, eq, inArray } from 'drizzle-orm'
import type * as v from 'valibot'
import type { PartySetting, Sending, sendingSheet } from '#contract/sending.ts'
import type { Person } from '#contract/person.ts'
import { addressFault, doubtsAbout, plainPhone } from '#core/ceremony/doubts.ts'
import { hasToAct, MOST_PARTIES, MOST_WRONG } from '#core/ceremony/parties.ts'
import { endOfDay, signByOf } from '#core/ceremony/times.ts'
import { dayIn } from '#core/organisation/organisation.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App, Work } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, party, team, teamMember } from '#server/db/schema.ts'
import { conflict, invalid, notFound } from '#server/ground/problem.ts'
import { happened } from '#server/services/agreements/trail.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { planOf } from './clock.ts'
import { noticeWords } from './notice.ts'
import { forSender } from './for-sender.ts'
import { newLink } from './links.ts'
import { hashOfCode } from './proving.ts'
import { partiesOf } from '#server/services/agreements/parties.ts'
import { type Agreement, closingOf, type Party, readerOf, textOf } from './readers.ts'
import { peopleNow } from './replacing.ts'
import { visitOf } from './visit.ts'

/** States in which it has not gone out and can be set up. */
const BEFORE: readonly Agreement['state'][] = ['draft', 'in approval', 'returned', 'cleared']

export const refusalOf = ({ state, number }: Agreement): string | null =>
  BEFORE.includes(state) ? null : `${number} is ${state}; how it goes out is settled.`

/** How an agreement would go out now, with what each party would get. */
export async function sendingOf(
  app: App,
  by: Person,
  id: string,
): Promise<v.InferOutput<typeof sendingSheet>> {
  await requireMay(app, by, 'send')
  const found = await forSender(app.db, by, id)
  const { timeZone } = await organisationOf(app.db)
  const teams = await teamsOf(app.db, by)
  const signDays = found.row.signDays ?? found.content.sending.signByDays
  // Previews are of what would be said if it went now, by whoever looks.
  const row: Agreement = {
    ...found.row,
    sentBy: found.row.sentBy ?? by.id,
    signBy: found.row.signBy ?? signByOf(timeZone, app.now(), signDays),
  }
  const parties = await partiesOf(app.db, row)
  const words = row.notice ? await noticeWords(app, row) : null
  const previews = []
  for (const each of parties) previews.push(await previewFor(app.db, row, each, parties, words))
  return {
    subject: row.subject,
    message: row.message,
    signByDay: found.row.signBy && dayIn(timeZone, found.row.signBy),
    signDays,
    today: dayIn(timeZone, app.now()),
    plan: copied(await planOf(app.db, row)),
    parties: parties.map(settingOf),
    team: row.teamId,
    introduction: row.introduction && {
      kind: row.introduction.kind,
      transcript: row.introduction.transcript,
    },
    teams,
    notice: row.notice,
    goesAt: row.goesAt?.toISOString() ?? null,
    refusal: refusalOf(row),
    previews,
  }
}

/** What one party would get, with what makes one doubt that it arrives; `words`: of a notice, what its email says. */
async function previewFor(
  db: Db,
  row: Agreement,
  each: Party,
  parties: readonly Party[],
  words: Awaited<ReturnType<typeof noticeWords>> | null,
) {
  const reader = await readerOf(db, row, each)
  const { say, language } = reader.speaker
  const copy = each.kind === 'copy'
  const title = { title: row.name }
  return {
    language,
    // Who reads it only once it is executed gets no other mail than that.
    subject:
      !copy || words ? row.subject : say(each.copyNow ? 'mail.copySubject' : 'mail.executedSubject', title),
    paragraphs: words
      ? words(each)
      : each.linkBy === 'text' && (!copy || each.copyNow)
        ? [textOf(reader, 'https://…')]
        : !copy
          ? [row.message, ...closingOf(reader)]
          : [
              each.copyNow
                ? say('mail.copyNow', { from: reader.from, ...title })
                : say('mail.executed', title),
            ],
    button:
      words || each.linkBy === 'text'
        ? ''
        : say(
            copy
              ? each.copyNow
                ? 'mail.read'
                : 'mail.verify'
              : each.kind === 'assenter'
                ? 'mail.agree'
                : 'mail.sign',
          ),
    doubts: [
      ...doubtsAbout(
        each,
        parties.filter((other) => other !== each),
      ),
    ],
  }
}

const copied = ({ after, unopened, before }: Awaited<ReturnType<typeof planOf>>) => ({
  after: [...after],
  unopened: [...unopened],
  before: [...before],
})

/** Teams that somebody is in, and may send in the name of. */
export const teamsOf = (db: Db, by: Pick<Person, 'id'>) =>
  db
    .select({ id: team.id, name: team.name })
    .from(team)
    .innerJoin(teamMember, eq(teamMember.teamId, team.id))
    .where(eq(teamMember.personId, by.id))
    .orderBy(asc(team.name))

/** How an agreement goes out as it is set now. */
export const settingsOf = async (db: Db, timeZone: string, row: Agreement): Promise<Sending> => ({
  subject: row.subject,
  message: row.message,
  signByDay: row.signBy && dayIn(timeZone, row.signBy),
  plan: copied(await planOf(db, row)),
  parties: (await partiesOf(db, row)).map(settingOf),
  team: row.teamId,
})

const settingOf = (each: Party): PartySetting => ({
  id: each.id,
  kind: each.kind,
  name: each.name,
  email: each.email,
  phone: each.phone,
  language: each.language,
  order: each.order,
  linkBy: each.linkBy,
  check: each.check,
  code: null,
  message: each.message,
  mayDecline: each.mayDecline,
  mayHandOver: each.mayHandOver,
  copyNow: each.copyNow,
})

/** Roles of parties that stand in no document: those who only agree, and those who get a copy. */
const isAdded = ({ kind }: Pick<Party, 'kind'>): boolean => kind !== 'signer'

/**
 * Sets how an agreement goes out. Those who sign come from its roles and stay: their names stand in the document. Who only has to
 * agree, or gets a copy, is added and taken away here.
 */
export async function setSending(app: App, by: Person, id: string, sending: Sending) {
  await requireMay(app, by, 'send')
  const hashes = await Promise.all(
    sending.parties.map(({ code }) => (code === null ? null : hashOfCode(code))),
  )
  await transaction(app, (work) => setOne(work, by, id, () => Promise.resolve({ sending, hashes })))
  return sendingOf(app, by, id)
}

/** Sets one agreement under its lock, as `asked` says of it as it stands. */
export async function setOne(
  work: Work,
  by: Person,
  id: string,
  asked: (
    row: Agreement,
  ) => Promise<{ readonly sending: Sending; readonly hashes: readonly (string | null)[] }>,
): Promise<void> {
  const { db } = work
  const { timeZone } = await organisationOf(db)
  const today = dayIn(timeZone, work.now())
  const { row } = await forSender(db, by, id, true)
  const refusal = refusalOf(row)
  if (refusal) throw conflict(refusal)
  const { sending, hashes } = await asked(row)
  await checkSending(db, by, row, sending, today)
  const before = await partiesOf(db, row)
  const known = new Map(before.map((each) => [each.id, each]))
  const given = sending.parties.map((set, i) => ({ set, was: set.id ? known.get(set.id) : undefined, i }))
  const gone = before.filter((each) => given.every(({ was }) => was !== each))
  checkParties(row, given, gone, hashes)
  await keepParties(db, row, given, gone, hashes)
  await db
    .update(agreement)
    .set({
      subject: sending.subject,
      message: sending.message,
      plan: sending.plan,
      signBy: sending.signByDay ? endOfDay(timeZone, sending.signByDay) : null,
      teamId: sending.team,
      changedAt: work.now(),
    })
    .where(eq(agreement.id, id))
  await happened(work, id, by.name, {
    act: 'parties set',
    detail: { people: await peopleNow(work, row), told: toldOf(sending) },
  })
}

/** One party as it is set, and as it was; `i`: its place in what was sent. */
interface Given {
  readonly set: Sending['parties'][number]
  readonly was: Party | undefined
  readonly i: number
}

/** Refuses what cannot be set in the agreement as a whole. */
async function checkSending(
  db: Db,
  by: Person,
  row: Agreement,
  sending: Sending,
  today: string,
): Promise<void> {
  if (sending.signByDay && sending.signByDay < today)
    throw invalid('The day to sign by has passed.', [{ pointer: '/signByDay', detail: 'It has passed.' }])
  if (sending.parties.filter(hasToAct).length > MOST_PARTIES)
    throw invalid(`At most ${MOST_PARTIES} sign or agree on one agreement.`)
  if (
    sending.team &&
    sending.team !== row.teamId &&
    !(await teamsOf(db, by)).some(({ id: own }) => own === sending.team)
  )
    throw invalid('Whoever sends in a team’s name is one of the team.', [
      { pointer: '/team', detail: 'You are not in this team.' },
    ])
  if (row.notice && sending.parties.some(hasToAct))
    throw invalid('Nobody signs a notice; whoever is to read it gets a copy.')
}

/** Refuses parties that the document does not have, or that cannot be reached. */
function checkParties(
  row: Agreement,
  given: readonly Given[],
  gone: readonly Party[],
  hashes: readonly (string | null)[],
): void {
  for (const { set, was, i } of given) {
    if (set.id && !was) throw conflict('Somebody else has changed who signs. Load it anew.')
    if (was && !isAdded(was) && !row.notice && (set.kind !== 'signer' || set.name !== was.name))
      throw invalid(`${was.name} signs as ${was.label}: that comes from the document.`)
    if (set.kind === 'signer' && !was) throw invalid('Those who sign come from the roles of the template.')
    if (set.check === 'agreed code' && !hashes[i] && !was?.codeHash)
      throw invalid(`${set.name}: set an agreed code.`, [
        { pointer: `/parties/${i}/code`, detail: 'Set an agreed code.' },
      ])
    const fault = set.email || set.kind !== 'signer' ? addressFault(set) : null
    if (fault) throw invalid(fault, [{ pointer: `/parties/${i}/email`, detail: fault }])
  }
  if (gone.some((each) => !isAdded(each)))
    throw invalid('Everyone who signs has to stay: their places are in the document.')
}

/** Changes the parties that stay, adds the new ones and takes the others away. */
async function keepParties(
  db: Db,
  row: Agreement,
  given: readonly Given[],
  gone: readonly Party[],
  hashes: readonly (string | null)[],
): Promise<void> {
  const ids = gone.map(({ id }) => id)
  if (ids.length) await db.delete(party).where(and(inArray(party.id, ids), eq(party.agreementId, row.id)))
  for (const { set, was, i } of given) {
    const { id: _id, code: _code, ...settings } = set
    const codeHash = set.check === 'agreed code' ? (hashes[i] ?? was!.codeHash) : null
    const values = { ...settings, phone: plainPhone(set.phone), codeHash }
    if (was) await db.update(party).set(values).where(eq(party.id, was.id))
    else
      await db.insert(party).values({
        ...values,
        id: randomUUID(),
        agreementId: row.id,
        revision: row.revision,
        role: `${set.kind}.${randomUUID().slice(0, 8)}`,
        label: set.kind === 'copy' ? 'Copy' : 'Agrees',
        title: '',
      })
  }
}

/** Who comes when, and by which proof, in one line for the trail. */
const toldOf = ({ parties }: Sending): string =>
  [...parties]
    .sort((a, b) => a.order - b.order)
    .map(({ name, email, kind, order, check }) =>
      kind === 'copy'
        ? `${name} <${email}> gets a copy`
        : `${order}. ${name} <${email}>${kind === 'assenter' ? ' agrees' : ''}${check === 'link' ? '' : ` by ${check}`}`,
    )
    .join('; ')

/**
 * A link to the signing page for the device that somebody is signed in at: for a party who is present, or for themselves. Whose
 * device it was stays with what is signed there.
 */
export async function handDevice(
  app: App,
  by: Person,
  id: string,
  partyId: string,
): Promise<{ readonly path: string }> {
  await requireMay(app, by, 'send')
  return transaction(app, async (work) => {
    const [row] = await work.db.select().from(agreement).where(eq(agreement.id, id)).for('update')
    if (!row) throw notFound('agreement')
    const of = (await partiesOf(work.db, row)).find((each) => each.id === partyId)
    if (!of || of.kind === 'copy') throw notFound('party')
    if (of.wrong >= MOST_WRONG)
      throw conflict(
        `Too many wrong codes were given for ${of.name}. A new code, a reminder or another address lets them in again.`,
      )
    const own = of.email.toLowerCase() === by.email.toLowerCase()
    const token = await newLink(work.db, of.id, work.now(), { atDeviceOf: own ? null : by.name })
    const { passage } = await visitOf(work, { token, proof: null, address: '' })
    if (passage.standing !== 'open')
      throw conflict(
        passage.standing === 'waiting'
          ? `It is not ${of.name}’s turn yet.`
          : `${of.name} cannot sign it now.`,
      )
    if (!own)
      await happened(work, id, by.name, {
        act: 'device handed over',
        detail: { name: of.name, role: of.label },
      })
    return { path: `/sign/${token}` }
  })
}
