import { randomUUID } from 'node:crypto'
import { and, eq } from 'drizzle-orm'
import type * as v from 'valibot'
import type { programRunSchema, runWish } from '#contract/program.ts'
import { nestedColumns, nestedRows } from '#core/mapping/nested.ts'
import type { Cell } from '#core/outline/cell.ts'
import { bundleFields } from '#core/packet/bundle.ts'
import { plainSetup } from '#core/run/setup.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { one } from '#server/db/one.ts'
import { programRun, run } from '#server/db/schema.ts'
import { sha256 } from '#server/files/store.ts'
import { invalidAt, notFound } from '#server/ground/problem.ts'
import { changeRun, startRun } from '#server/services/runs/run-setup.ts'
import { readRun } from '#server/services/runs/runs.ts'
import { keepAsSheet } from '#server/services/sheets/sheets.ts'
import { chosenBundle } from '#server/services/templates/editions.ts'
import type { Caller } from './keys.ts'
import { usedBefore } from './starts.ts'

// Runs that programs start: what they send is a sheet like any other, whose rows people can mend, read and make.

/** Names of rows that are one agreement; no field is named so. */
const ROW = 'No.'

/**
 * Starts a run of nested values, a row each. Values at fault are rows that need a hand; only what has no place in the sheet, a name
 * that no field has or a value where a list belongs, is refused. The same reference again is the same run.
 */
export async function startRunOf(
  app: App,
  caller: Caller,
  wish: v.InferOutput<typeof runWish>,
  reference: string,
): Promise<v.InferOutput<typeof programRunSchema>> {
  await requireMay(app, caller.person, 'runs')
  const { key } = caller
  const asked = sha256(JSON.stringify(wish))
  await app.db
    .insert(programRun)
    .values({ keyId: key.id, reference, asked, runId: randomUUID() })
    .onConflictDoNothing()
  const known = one(
    await app.db
      .select()
      .from(programRun)
      .where(and(eq(programRun.keyId, key.id), eq(programRun.reference, reference))),
  )
  if (known.asked !== asked) throw usedBefore()
  const { runId } = known
  if (!(await isThere(app, runId))) {
    // Whoever was broken off, or asks at the same moment, makes the same run: its id is given already.
    await begin(app, caller, wish, runId).catch(async (error: unknown) => {
      if (await isThere(app, runId)) return
      // Nothing came of it: the reference is free for the call that is mended.
      await app.db.delete(programRun).where(eq(programRun.runId, runId))
      throw error
    })
  }
  return runView(app, caller, runId)
}

const isThere = async (app: App, id: string): Promise<boolean> =>
  (await app.db.select({ id: run.id }).from(run).where(eq(run.id, id))).length > 0

async function begin(
  app: App,
  { person }: Caller,
  { name, template, packet, rows }: v.InferOutput<typeof runWish>,
  id: string,
): Promise<void> {
  const of = { templateId: template, packetId: packet }
  const { bundle } = await chosenBundle(app, person, of)
  const fields = bundleFields(bundle)
  const { columns, mapping } = nestedColumns(fields)
  const read = rows.map(({ data }, i) => nestedRows(fields, data, `/rows/${i}/data`))
  const faults = read.flatMap(({ problems }) => problems)
  if (faults.length) throw invalidAt(faults.slice(0, 100))
  const cells = read.flatMap((one, i) => one.rows.map((row): Cell[] => [i + 1, ...row.cells]))
  const sheetId = await keepAsSheet(
    app,
    person,
    name,
    [ROW, ...columns.map((column) => column.name)],
    cells.map((row, i) => ({ row: i + 1, cells: row, aside: null })),
    'text',
  )
  await startRun(
    app,
    person,
    { name, ...of, sheetId, setup: { ...plainSetup, values: {}, askRows: [], groupBy: [ROW] } },
    id,
  )
  await changeRun(app, person, id, { mapping })
}

/** How far a run is that this key started; another's is not found. */
export async function runView(
  app: App,
  { key }: Caller,
  id: string,
): Promise<v.InferOutput<typeof programRunSchema>> {
  const [own] = await app.db
    .select({ id: programRun.runId })
    .from(programRun)
    .where(and(eq(programRun.runId, id), eq(programRun.keyId, key.id)))
  if (!own) throw notFound('run')
  const found = await readRun(app, id)
  const { ready, hand, made, failed } = found.rows
  return {
    id,
    name: found.name,
    state: found.state,
    at: `/api/v1/runs/${id}`,
    rows: { ready, hand, made, failed },
  }
}
