import { fileName } from '#core/text/pattern.ts'
import { recordFile } from '#server/db/schema.ts'
import { conflict } from '#server/ground/problem.ts'
import { type Doing, filled } from './following.ts'

/** The document goes to the agreement's record. */
export const fileToRecord: Doing<'file to the record'> = {
  inside: async (work, following) => {
    const { row, step, file } = following
    if (!row.recordId) throw conflict('The agreement belongs to no record.')
    const name = `${fileName(filled(following, step.name))}.pdf`
    await work.db
      .insert(recordFile)
      .values({
        recordId: row.recordId,
        sha256: file.sha256,
        name,
        size: file.size,
        mediaType: 'application/pdf',
        source: `${row.number}, ${step.on}`,
        agreementId: row.id,
        at: work.now(),
      })
      .onConflictDoNothing()
    return { said: `filed as ${name}` }
  },
}
