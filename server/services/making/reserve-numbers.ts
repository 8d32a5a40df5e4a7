import { and, eq, isNotNull, isNull, lt, sql } from 'drizzle-orm'
import { numberText } from '#core/agreement/number.ts'
import type { Origin } from '#core/agreement/origin.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, claim, freeNumber, runRow, series } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'

/** The right to make one agreement: its id and its number. `had`: it was claimed before. */
export interface ReservedNumber {
  readonly id: string
  readonly number: string
  readonly had: boolean
}

/** First key of the locks on series that are counted up; the second is made of the series' id. */
const NUMBER_LOCK = 2

/** Whoever waited sees what the others allotted: each statement looks anew. */
const lockSeries = (db: Db, seriesId: string) =>
  db.execute(sql`select pg_advisory_xact_lock(${NUMBER_LOCK}, hashtext(${seriesId}))`)

interface Found extends Record<string, unknown> {
  readonly id: string
  readonly pattern: string
  readonly number: number
  readonly had: boolean
}

const shaped = ({ id, pattern, number, had }: Found): ReservedNumber => ({
  id,
  number: numberText(pattern, number),
  had,
})

/**
 * The claims of a run's rows, made for good on first asking and committed at once, by a transaction of their own: a crash
 * later in the making leaves no gap, because a row finds its claim again. Rows before them that others are making get theirs
 * first, so that numbers follow the rows.
 */
export const reserveRowNumbers = (
  app: App,
  seriesId: string,
  runId: string,
  asked: readonly number[],
): Promise<ReadonlyMap<number, ReservedNumber>> =>
  transaction(app, async ({ db, now }) => {
    await lockSeries(db, seriesId)
    const these = sql`any(${sql.param([...asked])}::int[])`
    const { rows } = await db.execute<Found & { readonly row: number }>(sql`
      with had as (
        select row, id, number from ${claim} where run_id = ${runId} and row = ${these}
      ), fresh as (
        select row, row_number() over (order by row) as place
        from ${runRow} as ready
        where run_id = ${runId} and state = 'ready' and row <= ${Math.max(...asked)}
          and not exists (select from ${claim} as other where other.run_id = ${runId} and other.row = ready.row)
      ), counted as (
        update ${series} set last_number = last_number + (select count(*) from fresh)
        where id = ${seriesId} and exists (select from fresh)
        returning last_number
      ), allotted as (
        insert into ${claim} (id, series_id, number, origin, at)
        select gen_random_uuid(), ${seriesId}, last_number - (select count(*) from fresh) + place,
          jsonb_build_object('kind', 'row', 'run', ${runId}::text, 'row', row),
          ${now().toISOString()}::timestamptz
        from fresh, counted
        returning row, id, number
      )
      select numbered.row, numbered.id, numbered.number, had, pattern
      from (
        select row, id, number, true as had from had union all select row, id, number, false from allotted
      ) as numbered, ${series} as series
      where series.id = ${seriesId} and row = ${these}`)
    if (rows.length !== asked.length) throw new Error(`There is no series ${seriesId}.`)
    return new Map(rows.map((found) => [found.row, shaped(found)]))
  })

/** The agreement that was made on an occasion; null: none has been. */
export async function madeOn(db: Db, occasion: string): Promise<string | null> {
  const [found] = await db
    .select({ id: agreement.id })
    .from(claim)
    .innerJoin(agreement, eq(agreement.id, claim.id))
    .where(eq(claim.occasion, occasion))
  return found?.id ?? null
}

/**
 * The claim of one agreement, committed at once by a transaction of its own, so that nothing is locked while it is drawn. Asked
 * again on the same occasion it is the same claim. Where nothing comes of it, `releaseNumbers` frees its number for the next.
 */
export const reserveNumber = (
  app: App,
  seriesId: string,
  origin: Exclude<Origin, { readonly kind: 'row' }>,
  occasion: string,
): Promise<ReservedNumber> =>
  transaction(app, async ({ db, now }) => {
    await lockSeries(db, seriesId)
    const { rows } = await db.execute<Found>(sql`
      with had as (
        select id, series_id, number from ${claim} where occasion = ${occasion}
      ), freed as (
        delete from ${freeNumber} where not exists (select from had) and (series_id, number) = (
          select series_id, number from ${freeNumber} where series_id = ${seriesId} order by number limit 1)
        returning number
      ), counted as (
        update ${series} set last_number = last_number + 1
        where id = ${seriesId} and not exists (select from had) and not exists (select from freed)
        returning last_number
      ), allotted as (
        insert into ${claim} (id, series_id, number, origin, occasion, at)
        select gen_random_uuid(), ${seriesId}, number, ${JSON.stringify(origin)}::jsonb, ${occasion}, ${now().toISOString()}::timestamptz
        from (select number from freed union all select last_number from counted) as next
        returning id, series_id, number
      )
      select claimed.id, claimed.number, had, pattern
      from (select *, true as had from had union all select *, false from allotted) as claimed
      join ${series} as series on series.id = claimed.series_id`)
    if (!rows[0]) throw new Error(`There is no series ${seriesId}.`)
    return shaped(rows[0])
  })

/** Takes claims back of which no agreement was made: the series counts down again, or the number is the next one's. */
export const releaseNumbers = (app: App, ids: readonly string[]): Promise<void> =>
  transaction(app, async ({ db }) => {
    for (const id of ids) {
      const [found] = await db.select({ seriesId: claim.seriesId }).from(claim).where(eq(claim.id, id))
      if (!found) continue
      await lockSeries(db, found.seriesId)
      await db.execute(sql`
        with gone as (
          delete from ${claim} as claim
          where id = ${id} and occasion is not null and not exists (select from ${agreement} as made where made.id = claim.id)
          returning series_id, number
        ), counted as (
          update ${series} as series set last_number = last_number - 1 from gone
          where series.id = gone.series_id and series.last_number = gone.number
          returning series.id
        )
        insert into ${freeNumber} (series_id, number)
        select series_id, number from gone where not exists (select from counted)`)
    }
  })

/** Milliseconds after which a claim that nobody came back for is one that a crash left behind. */
const FORGOTTEN = 86_400_000

/** Job: gives back what crashes left claimed and nobody asked for again. */
export async function releaseForgotten(app: App): Promise<void> {
  const left = await app.db
    .select({ id: claim.id })
    .from(claim)
    .leftJoin(agreement, eq(agreement.id, claim.id))
    .where(
      and(
        isNotNull(claim.occasion),
        isNull(agreement.id),
        lt(claim.at, new Date(app.now().getTime() - FORGOTTEN)),
      ),
    )
  await releaseNumbers(
    app,
    left.map(({ id }) => id),
  )
}
