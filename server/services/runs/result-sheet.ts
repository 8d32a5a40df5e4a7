import { and, asc, eq, sql } from 'drizzle-orm'
import { describeState } from '#core/agreement/states.ts'
import type { Cell } from '#core/outline/cell.ts'
import type { App } from '#server/app/app.ts'
import { one } from '#server/db/one.ts'
import { agreement, claim, mail, party, run, runRow, sheet, sheetRow } from '#server/db/schema.ts'

/** The source as it stands, with what became of each row beside it. */
/** What became of a row, in the words of the run's page. */
const RESULTS: Readonly<Record<(typeof runRow.$inferSelect)['state'], string>> = {
  ready: 'ready',
  'needs a hand': 'needs a hand',
  made: 'made',
  failed: 'failed',
  skipped: 'left out',
}

/** Whether what `arrival` says is why a mail came back. */
const cameBack = (arrived: string | null): boolean =>
  arrived !== null && arrived !== 'yes' && arrived !== 'on its way'

/** Of what has gone out: whether the mail to its parties arrived, as far as the servers on the way have said. */
const arrival = sql<string | null>`(
  select case
    when bool_or(sent.undeliverable_at is not null) then string_agg(sent."to" || ': ' || coalesce(sent.problem, ''), '; ')
      filter (where sent.undeliverable_at is not null)
    when bool_and(sent.sent_at is not null) then 'yes'
    else 'on its way' end
  from (select distinct on (${mail.to}) ${mail.to}, ${mail.problem}, ${mail.sentAt}, ${mail.undeliverableAt}
    from ${mail} join ${party} on ${party.id} = ${mail.partyId} and ${party.email} = ${mail.to}
      and ${party.revision} = ${agreement.revision}
    where ${mail.agreementId} = ${agreement.id}
    order by ${mail.to}, ${mail.createdAt} desc) as sent)`

/** The result sheet of a run: each row with its status and what was made of it. */
export async function resultRows(app: App, runId: string): Promise<readonly (readonly Cell[])[]> {
  const found = one(
    await app.db
      .select({ columns: sheet.columns, sheetId: sheet.id })
      .from(run)
      .innerJoin(sheet, eq(sheet.id, run.sheetId))
      .where(eq(run.id, runId)),
  )
  const source = await app.db
    .select()
    .from(sheetRow)
    .where(eq(sheetRow.sheetId, found.sheetId))
    .orderBy(asc(sheetRow.row))
  const rows = await app.db
    .select({
      row: runRow,
      number: agreement.number,
      state: agreement.state,
      revision: agreement.revision,
      arrived: arrival,
    })
    .from(runRow)
    .leftJoin(claim, and(eq(claim.runId, runRow.runId), eq(claim.row, runRow.row)))
    .leftJoin(agreement, eq(agreement.id, claim.id))
    .where(eq(runRow.runId, runId))
  const bySource = new Map(rows.flatMap((each) => each.row.sourceRows.map((row) => [row, each] as const)))
  return [
    [
      ...found.columns.map(({ name }) => name),
      'Row',
      'Result',
      'Agreement',
      'State',
      'Revision',
      'Arrived',
      'Reason',
    ],
    ...source.map(({ row, cells, aside }): readonly Cell[] => {
      const each = bySource.get(row)
      return [
        ...found.columns.map((_, i) => cells[i] ?? null),
        row,
        aside ? 'set aside' : each ? RESULTS[each.row.state] : 'not taken',
        each?.number ?? null,
        each?.state === 'delivered'
          ? describeState(each.state, cameBack(each.arrived))
          : (each?.state ?? null),
        each?.revision ?? null,
        each?.arrived ?? null,
        aside ?? (each?.row.problems.map(({ message }) => message).join(' ') || null),
      ]
    }),
  ]
}
