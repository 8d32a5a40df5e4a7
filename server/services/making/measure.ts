import { and, eq, sql } from 'drizzle-orm'
import { mergeBundle } from '#core/packet/bundle.ts'
import type { App } from '#server/app/app.ts'
import { run, runRow } from '#server/db/schema.ts'
import { drawBundle } from '#server/services/templates/drawing.ts'
import { bundleOfRun } from '#server/services/templates/editions.ts'
import { unmeasured } from '#server/services/runs/run-check.ts'

/**
 * Job: draws every row's proof once for what does not fit, while somebody reads. It gives way: once the run is being
 * made, or its rows are read anew, it ends; asked again, it goes on with the rows that are left.
 */
export async function measureRun(app: App, runId: string): Promise<void> {
  const [found] = await app.db.select().from(run).where(eq(run.id, runId))
  if (!found) return
  const rows = [...(await unmeasured(app, runId))]
  const lane = async () => {
    for (let row = rows.shift(); row; row = rows.shift()) {
      const [now] = await app.db
        .select({ state: run.state, version: run.version })
        .from(run)
        .where(eq(run.id, runId))
      if (now?.state !== 'checked' || now.version !== found.version) return
      await measureRow(app, found, row)
    }
  }
  // One lane less than there are threads: proofs that somebody waits for find one free.
  await Promise.all(Array.from({ length: Math.max(1, app.settings.threads - 1) }, lane))
}

async function measureRow(app: App, found: typeof run.$inferSelect, row: typeof runRow.$inferSelect) {
  const bundle = await bundleOfRun(app, found, row.language)
  const merged = mergeBundle(bundle, row.data, null)
  const origins = merged.documents.flatMap(({ origins: each }) => each)
  const drawn = await drawBundle(app, bundle, merged.documents, {
    proof: true,
    at: new Date(0),
  }).catch((error: unknown) => {
    app.log.warn({ err: error, run: found.id, row: row.row }, 'a proof could not be drawn')
    return null
  })
  // What cannot be drawn counts as looked at, with no pages: making it would tell why.
  const overflow = [
    ...(drawn?.overflow ?? []).map(({ origin, blank, text }) => ({
      where: blank ?? origins[origin ?? -1]?.label ?? '',
      text,
    })),
    ...(drawn?.alone ?? []).map(() => ({ where: 'Signatures', text: '', alone: true as const })),
  ]
  await app.db
    .update(runRow)
    .set({ pages: drawn?.pages ?? 0, overflow })
    .where(
      and(
        eq(runRow.runId, found.id),
        eq(runRow.row, row.row),
        sql`${runRow.data} = ${JSON.stringify(row.data)}::jsonb`,
      ),
    )
}
