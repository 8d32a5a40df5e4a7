import { asc, desc, eq } from 'drizzle-orm'
import { authorOf } from '#core/approvers/directory.ts'
import type { AgreementFacts, AgreementRules } from '#core/rules/agreement-facts.ts'
import type { TableInForce } from '#core/rules/table.ts'
import type { Db } from '#server/db/connect.ts'
import { ruleEdition, ruleTable } from '#server/db/schema.ts'
import { directoryOf } from './directory.ts'
import { isAbout } from './scopes.ts'

/** The tables that decide about what is made of these templates, by name; the newest edition of each. */
export async function tablesFor(db: Db, templateIds: readonly string[]): Promise<readonly TableInForce[]> {
  const latest = await db
    .selectDistinctOn([ruleEdition.tableId], {
      id: ruleEdition.tableId,
      edition: ruleEdition.number,
      table: ruleEdition.content,
    })
    .from(ruleEdition)
    .innerJoin(ruleTable, eq(ruleTable.id, ruleEdition.tableId))
    .where(eq(ruleTable.inForce, true))
    .orderBy(asc(ruleEdition.tableId), desc(ruleEdition.number))
  const about: TableInForce[] = []
  for (const each of latest) if (await isAbout(db, each.table.scope, templateIds)) about.push(each)
  return about.sort((a, b) => a.table.name.localeCompare(b.table.name) || a.id.localeCompare(b.id))
}

/** What agreements of these templates are routed by: the tables in force, who there is, and what is known of their making. */
export async function rulesFor(
  db: Db,
  templateIds: readonly string[],
  made: { readonly author: string; readonly from: AgreementFacts['from']; readonly rows: number },
): Promise<AgreementRules> {
  const directory = await directoryOf(db)
  return {
    tables: await tablesFor(db, templateIds),
    directory,
    facts: {
      author: authorOf(directory, made.author),
      from: made.from,
      rows: made.rows,
    },
  }
}
