import { asc, eq, inArray } from 'drizzle-orm'
import type * as v from 'valibot'
import type { CommonSending, Sending, sendingSheets } from '#contract/sending.ts'
import type { Person } from '#contract/person.ts'
import { addressFault, doubtsAbout } from '#core/ceremony/doubts.ts'
import { common, differencesOf } from '#core/ceremony/differs.ts'
import { fillBundle } from '#core/packet/bundle.ts'
import { suppliedFields } from '#core/merge/fields.ts'
import { cut } from '#core/text/cut.ts'
import { patternNames } from '#core/text/pattern.ts'
import { dayIn } from '#core/organisation/organisation.ts'
import { stateWord } from '#core/agreement/states.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App, Ground } from '#server/app/app.ts'
import { agreement, edition } from '#server/db/schema.ts'
import { invalid, notFound } from '#server/ground/problem.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { partiesOf } from '#server/services/agreements/parties.ts'
import { bundleOf } from '#server/services/templates/editions.ts'
import { requireShelf } from '#server/services/templates/shelves.ts'
import { forSender } from './for-sender.ts'
import { oneByOne, toRefusalViews } from './one-by-one.ts'
import type { Agreement, Party } from './readers.ts'
import { setOne, settingsOf, teamsOf } from './set-sending.ts'

/** The key of a party's role; several of one role have a number behind it. */
const roleOf = ({ role }: Pick<Party, 'role'>): string => role.split('.')[0]!

const isRole = ({ kind }: Pick<Party, 'kind'>, { notice }: Agreement): boolean =>
  kind === 'signer' || notice !== null

/** Many agreements as they would go out: what all have in common, in what each differs, what is doubtful. */
export async function sendingOfMany(
  app: App,
  by: Person,
  ids: readonly string[],
): Promise<v.InferOutput<typeof sendingSheets>> {
  await requireMay(app, by, 'send')
  const { db } = app
  const found = await db
    .select({ row: agreement, content: edition.content, templateId: edition.templateId })
    .from(agreement)
    .innerJoin(edition, eq(edition.id, agreement.editionId))
    .where(inArray(agreement.id, [...new Set(ids)]))
    .orderBy(asc(agreement.number))
  if (!found.length) throw notFound('agreement')
  await requireShelf(db, by, [...new Set(found.map(({ templateId }) => templateId))])
  const { timeZone } = await organisationOf(db)
  const each = []
  for (const { row, content } of found) {
    const parties = await partiesOf(db, row)
    each.push({ row, content, parties, settings: await settingsOf(db, timeZone, row) })
  }
  const differs = differencesOf(
    each.map(({ settings, parties }) => ({
      ...settings,
      parties: settings.parties.map((party, i) => ({ ...party, role: roleOf(parties[i]!) })),
    })),
  )
  const roles = new Map<string, Party[]>()
  for (const { row, parties } of each)
    for (const party of parties.filter((of) => isRole(of, row)))
      roles.set(roleOf(party), [...(roles.get(roleOf(party)) ?? []), party])
  const [first] = each
  const sameText = common(each.map(({ content: { sending } }) => [sending.subject, sending.message]))
  return {
    today: dayIn(timeZone, app.now()),
    teams: await teamsOf(db, by),
    team: common(each.map(({ settings }) => settings.team)),
    fields: [...new Set(each.flatMap(({ content }) => content.outline.map(({ name }) => name))), 'number'],
    subject: sameText && first!.content.sending.subject,
    message: sameText && first!.content.sending.message,
    signByDay: common(each.map(({ settings }) => settings.signByDay)),
    signDays: common(each.map(({ row, content }) => row.signDays ?? content.sending.signByDays)),
    plan: common(each.map(({ settings }) => settings.plan)),
    notice: common(each.map(({ row }) => row.notice)),
    roles: [...roles].map(([role, parties]) => ({
      role,
      label: parties[0]!.label.replace(/ \d+$/, ''),
      count: parties.length,
      order: common(parties.map(({ order }) => order)),
      check: common(parties.map(({ check }) => check)),
      mayDecline: common(parties.map(({ mayDecline }) => mayDecline)),
      mayHandOver: common(parties.map(({ mayHandOver }) => mayHandOver)),
    })),
    rows: each.map(({ row, parties }, i) => ({
      id: row.id,
      number: row.number,
      name: row.name,
      state: row.state,
      parties: parties.map(({ label, name, email }) => ({ label, name, email })),
      doubts: parties.flatMap((party) => [
        ...doubtsAbout(
          party,
          parties.filter((other) => other !== party),
        ),
      ]),
      differs: [...differs[i]!],
      goesAt: row.goesAt?.toISOString() ?? null,
      refusal:
        row.state !== 'cleared'
          ? `It is ${stateWord(row.state)}.`
          : (parties.map(addressFault).find((fault) => fault !== null) ?? null),
    })),
  }
}

/** Sets many by what they are to have in common, each in a transaction of its own: one that cannot be set does not hold up the others. */
export async function setSendingOfMany(app: App, by: Person, ids: readonly string[], set: CommonSending) {
  await requireMay(app, by, 'send')
  const { timeZone } = await organisationOf(app.db)
  const { subject, message } = set
  const says = subject !== undefined || message !== undefined
  const { done, refused } = await oneByOne(app, ids, (work, id) =>
    setOne(work, by, id, async (row) => {
      const parties = await partiesOf(work.db, row)
      const sending = withCommon(await settingsOf(work.db, timeZone, row), parties, row, set)
      const words = says ? await filled(work, row, { subject: subject ?? '', message: message ?? '' }) : null
      return {
        sending: {
          ...sending,
          ...(words && subject !== undefined ? { subject: words.subject } : {}),
          ...(words && message !== undefined ? { message: words.message } : {}),
        },
        hashes: sending.parties.map(() => null),
      }
    }),
  )
  return { set: done, refused: toRefusalViews(refused) }
}

function withCommon(now: Sending, parties: readonly Party[], row: Agreement, set: CommonSending): Sending {
  const kept = now.parties.map((party, i) => {
    const of = set.roles?.[roleOf(parties[i]!)]
    return isRole(parties[i]!, row) && of ? { ...party, ...given(of) } : party
  })
  const known = new Set(kept.map(({ email }) => email.toLowerCase()))
  const copies = (set.copies ?? []).filter(({ email }) => !known.has(email.toLowerCase()))
  return {
    ...now,
    ...(set.signByDay === undefined ? {} : { signByDay: set.signByDay }),
    ...(set.plan === undefined ? {} : { plan: set.plan }),
    ...(set.team === undefined ? {} : { team: set.team }),
    parties: [
      ...kept,
      ...copies.map((copy) => ({
        ...copy,
        id: null,
        kind: 'copy' as const,
        phone: '',
        language: null,
        linkBy: 'mail' as const,
        order: 1,
        check: 'link' as const,
        code: null,
        message: '',
        mayDecline: false,
        mayHandOver: false,
      })),
    ],
  }
}

/** What is named of it. */
const given = <T extends object>(of: T) =>
  Object.fromEntries(Object.entries(of).filter(([, value]) => value !== undefined)) as {
    [K in keyof T]: Exclude<T[K], undefined>
  }

/** Words with their merge fields filled for one agreement. Names that it has no field of are refused. */
async function filled(
  ground: Ground,
  row: Agreement,
  words: { readonly subject: string; readonly message: string },
) {
  const found = await fillWords(ground, row, words)
  if (found.unknown.length)
    throw invalid(`There is no field ${found.unknown.map((name) => `“${name}”`).join(', ')}.`)
  if (words.subject && !found.subject.trim()) throw invalid('Its subject would be empty.')
  return found
}

async function fillWords(
  ground: Ground,
  row: Agreement,
  { subject, message }: { readonly subject: string; readonly message: string },
) {
  const bundle = await bundleOf(ground, row)
  const fields = new Set([
    'number',
    ...bundle.parts.flatMap(({ content }) => [
      ...content.outline.map(({ name }) => name),
      ...suppliedFields(content).map(({ name }) => name),
    ]),
  ])
  const fill = (pattern: string) => fillBundle(bundle, row.data, pattern, row.number)
  return {
    subject: cut(fill(subject), 200),
    message: cut(fill(message), 5000),
    unknown: [...new Set([subject, message].flatMap(patternNames).filter((name) => !fields.has(name)))],
  }
}

/** The same for the page of one, which shows what is unknown instead. */
export async function fillMessage(
  app: App,
  by: Person,
  id: string,
  words: { readonly subject: string; readonly message: string },
) {
  await requireMay(app, by, 'send')
  const { row } = await forSender(app.db, by, id)
  return fillWords(app, row, words)
}
