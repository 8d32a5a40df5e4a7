import { type SQL, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { FoundKind, foundSchema, searchQuery } from '#contract/search.ts'
import type { Person } from '#contract/person.ts'
import { keysOf } from '#core/keys-of.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, intakeForm, packet, record, ruleTable, run, sheet, template } from '#server/db/schema.ts'
import { shelfRights } from '#server/services/templates/shelves.ts'

type Found = v.InferOutput<typeof foundSchema>

/** The most of one kind, and of all together. */
const [OF_A_KIND, IN_ALL] = [6, 24]
/** With fewer than this, names that are nearly so are looked for too, if so many letters are written. */
const [FEW, ENOUGH] = [4, 4]
/** From this word similarity on a name is nearly what was written (pg_trgm: 0 to 1): one wrong letter in a word of five. */
const NEARLY = '0.45'

/** Where one kind is found: what is looked in, when it last changed, and whose it is or how it stands. */
interface Place {
  readonly from: SQL
  readonly name: SQL
  readonly number?: SQL
  readonly at: SQL
  readonly of?: SQL
  readonly where?: SQL
}

/**
 * Where each kind is found. All of them are on lists that everybody who is signed in may read; of templates, those whose shelf is
 * open to them.
 */
const placesFor = (shelves: readonly string[]): Readonly<Record<FoundKind, Place>> => ({
  customer: recordsOf('customer'),
  contact: recordsOf('contact'),
  deal: recordsOf('deal'),
  price: recordsOf('price'),
  agreement: {
    from: sql`${agreement}`,
    name: sql`${agreement.name}`,
    number: sql`${agreement.number}`,
    at: sql`${agreement.changedAt}`,
    of: sql`${agreement.state}`,
  },
  template: {
    from: sql`${template}`,
    name: sql`${template.name}`,
    at: sql`${template.changedAt}`,
    where: sql`not ${template.oneOff} and
      (${template.shelfId} is null or ${template.shelfId} = any(${sql.param([...shelves])}::uuid[]))`,
  },
  packet: { from: sql`${packet}`, name: sql`${packet.name}`, at: sql`${packet.changedAt}` },
  run: { from: sql`${run}`, name: sql`${run.name}`, at: sql`${run.createdAt}`, of: sql`${run.state}` },
  sheet: { from: sql`${sheet}`, name: sql`${sheet.name}`, at: sql`${sheet.uploadedAt}` },
  'rule table': {
    from: sql`${ruleTable}`,
    name: sql`${ruleTable.draft}->>'name'`,
    at: sql`${ruleTable.changedAt}`,
  },
  'intake form': {
    from: sql`${intakeForm}`,
    name: sql`${intakeForm.content}->>'title'`,
    at: sql`${intakeForm.changedAt}`,
    where: sql`${intakeForm.archivedAt} is null`,
  },
})

const recordsOf = (kind: FoundKind): Place => ({
  from: sql`${record}`,
  name: sql`${record.name}`,
  at: sql`${record.changedAt}`,
  of: sql`(select owner.name from ${record} as owner where owner.id = ${record.customerId})`,
  where: sql`${record.kind} = ${kind} and ${record.archivedAt} is null`,
})

/**
 * What there is of these words in its name or number, by a wrong letter too: what begins with them first, then what has a word
 * that does, the last changed before the others. Without words, what was changed last.
 */
export async function search(
  app: App,
  by: Person,
  { q, kinds }: v.InferOutput<typeof searchQuery>,
): Promise<Found[]> {
  const rights = await shelfRights(app.db, by)
  const open = [...rights].flatMap(([shelf, may]) =>
    shelf !== null && (may.use || may.edit || may.publish) ? [shelf] : [],
  )
  const all = placesFor(open)
  const places = keysOf(all)
    .filter((kind) => kinds?.includes(kind) ?? true)
    .map((kind) => ({ kind, ...all[kind] }))
  const found = await look(app.db, places, having(q))
  if (found.length >= FEW || q.length < ENOUGH) return found
  const known = new Set(found.map(({ id }) => id))
  const nearly = (await look(app.db, places, nearlyHaving(q))).filter(({ id }) => !known.has(id))
  return [...found, ...nearly].slice(0, IN_ALL)
}

/** How a place is looked in: which of its rows have the words, and how well, the least the best. */
interface Looking {
  readonly has: (place: Place) => SQL
  readonly rank: (place: Place) => SQL
}

/** Names and numbers with the words in them as they are written; an index of trigrams finds them. */
function having(q: string): Looking {
  if (q === '') return { has: () => sql`true`, rank: () => sql`0` }
  const words = q.replace(/[\\%_]/g, '\\$&')
  const [first, later, anywhere] = [`${words}%`, `% ${words}%`, `%${words}%`]
  const inNumber = ({ number }: Place, like: string) => (number ? sql` or ${number} ilike ${like}` : sql``)
  return {
    has: (place) => sql`(${place.name} ilike ${anywhere}${inNumber(place, anywhere)})`,
    rank: (place) => sql`case when ${place.name} ilike ${first}${inNumber(place, first)} then 0
      when ${place.name} ilike ${later} then 1 else 2 end`,
  }
}

/** Names that are nearly so. The words come by the setting, so that the index is asked when that is made. */
const nearlyHaving = (q: string): Looking => ({
  has: ({ name }) => sql`${name} %> (select ${q}::text from setting)`,
  rank: ({ name }) => sql`1 - word_similarity(${q}, ${name})`,
})

/** Of each kind the best, then the best of these. The threshold of likeness counts for this one statement. */
async function look(
  db: Db,
  places: readonly (Place & { readonly kind: string })[],
  { has, rank }: Looking,
): Promise<Found[]> {
  const each = places.map((place) => {
    const { kind, from, name, number, at, of, where } = place
    return sql`(
      select ${kind} as kind, id::text, ${number ? sql`${number} || '  ' || ${name}` : name} as label,
        ${of ?? sql`null`} as of, ${rank(place)} as rank, ${at} as at
      from ${from} where ${has(place)} and ${where ?? sql`true`}
      order by rank, at desc limit ${OF_A_KIND})`
  })
  const { rows } = await db.execute<Found & Record<string, unknown>>(sql`
    with setting as materialized (
      select set_config('pg_trgm.word_similarity_threshold', ${NEARLY}, true)
    )
    select kind, id, label, of from (${sql.join(each, sql` union all `)}) as found
    order by rank, at desc limit ${IN_ALL}`)
  return rows.map(({ kind, id, label, of }) => ({ kind, id, label, of }))
}
