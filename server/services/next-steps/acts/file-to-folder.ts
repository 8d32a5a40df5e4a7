import { eq } from 'drizzle-orm'
import { fileName } from '#core/text/pattern.ts'
import { folder } from '#server/db/schema.ts'
import { conflict } from '#server/ground/problem.ts'
import { putIntoFolder } from '#server/outside/folders.ts'
import { type Doing, filled } from './following.ts'

/** The document goes to a folder, on this machine or over HTTP. The same file under the same name again changes nothing. */
export const fileToFolder: Doing<'file to a folder'> = {
  outside: async (app, following) => {
    const { step, file } = following
    const [into] = await app.db.select().from(folder).where(eq(folder.id, step.folder))
    if (!into || into.endedAt) throw conflict('The folder is not there any more.')
    // Each part is a name of its own: no value leads out of the folder, or into another one.
    const parts = filled(following, step.name.replaceAll('/', '\u0000'))
      .split('\u0000')
      .map((part) => fileName(part))
    const path = [...parts.slice(0, -1), `${parts.at(-1)!}.pdf`]
    await putIntoFolder(
      app.settings,
      { ...into, secret: app.secrets.open(into.secret) },
      path,
      await app.files.get(file.sha256),
    )
    return { said: `filed to ${into.name} as ${path.join('/')}` }
  },
}
