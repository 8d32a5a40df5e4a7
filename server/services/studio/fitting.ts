import type { TemplateContent } from '#core/document/template.ts'
import { fedFields } from '#core/mapping/suggest.ts'
import { suppliedFields } from '#core/merge/fields.ts'
import type { App } from '#server/app/app.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { recordSource } from '#server/services/records/record-sources.ts'
import { columnsOf } from '#server/services/sheets/sheet-rows.ts'

/** How well templates fit a sheet or record: the share of their data that it would feed. Null: nothing is named. */
export async function fitting(
  app: App,
  { sheet, record }: { readonly sheet?: string | undefined; readonly record?: string | undefined },
): Promise<((content: TemplateContent) => number) | null> {
  if (!sheet && !record) return null
  const columns = sheet ? await columnsOf(app.db, sheet) : (await recordSource(app.db, record!)).columns
  const { synonyms } = await organisationOf(app.db)
  return (content) => {
    const supplied = suppliedFields(content)
    // Of two templates whose needs are met, the one that uses more of the source is meant.
    const fed = fedFields(supplied, columns, synonyms).size
    return supplied.length ? (fed * fed) / supplied.length : 0
  }
}
