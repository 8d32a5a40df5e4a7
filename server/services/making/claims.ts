import { eq, sql } from 'drizzle-orm'
import { numberText } from '#core/agreement/number.ts'
import type { Origin } from '#core/agreement/origin.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, claim, runRow, series } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'

/** The right to make one agreement: its id and its number. `had`: it was claimed before. */
export interface Claim {
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

const shaped = ({ id, pattern, number, had }: Found): Claim => ({
  id,
  number: numberText(pattern, number),
  had,
})

/**
 * The claims of a run's rows, made for good on first asking and committed at once, by a transaction of their own: a crash
 * later in the making leaves no gap, because a row finds its claim again. Rows before them that others are making get theirs
 * first, so that numbers follow the rows.
 */
export const claimRows = (
  app: App,
  seriesId: string,
  runId: string,
  asked: readonly number[],
): Promise<ReadonlyMap<number, Claim>> =>
  transaction(app, async ({ db }) => {
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
        insert into ${claim} (id, series_id, number, origin)
        select gen_random_uuid(), ${seriesId}, last_number - (select count(*) from fresh) + place,
          jsonb_build_object('kind', 'row', 'run', ${runId}::text, 'row', row)
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
 * The claim of one agreement, in the caller's transaction: it is gapless because it goes back with it. The series is locked as
 * long, so the caller has only to draw and to keep. Asked again on the same occasion it is the same claim.
 */
export async function claimOne(
  db: Db,
  seriesId: string,
  origin: Exclude<Origin, { readonly kind: 'row' }>,
  occasion: string,
): Promise<Claim> {
  await lockSeries(db, seriesId)
  const { rows } = await db.execute<Found>(sql`
    with had as (
      select id, series_id, number from ${claim} where occasion = ${occasion}
    ), counted as (
      update ${series} set last_number = last_number + 1
      where id = ${seriesId} and not exists (select from had)
      returning last_number
    ), allotted as (
      insert into ${claim} (id, series_id, number, origin, occasion)
      select gen_random_uuid(), ${seriesId}, last_number, ${JSON.stringify(origin)}::jsonb, ${occasion} from counted
      returning id, series_id, number
    )
    select claimed.id, claimed.number, had, pattern
    from (select *, true as had from had union all select *, false from allotted) as claimed
    join ${series} as series on series.id = claimed.series_id`)
  if (!rows[0]) throw new Error(`There is no series ${seriesId}.`)
  return shaped(rows[0])
}
