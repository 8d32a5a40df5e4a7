import { eq } from 'drizzle-orm'
import type { Json } from '#core/mapping/nested.ts'
import { record } from '#server/db/schema.ts'
import { conflict } from '#server/ground/problem.ts'
import { askSystem } from '#server/outside/system.ts'
import { connectedOf } from '#server/services/connections/connections.ts'
import { type Doing, filled } from './following.ts'

/**
 * What became of the agreement goes back to where its record came from: a status and a link into the fields that were named for
 * them, the document under its number. Done again it is the same.
 */
export const tellSystem: Doing<'tell the customer system'> = {
  outside: async (app, following) => {
    const { step, row, file } = following
    if (!row.recordId) throw conflict('The agreement belongs to no record.')
    const [own] = await app.db.select().from(record).where(eq(record.id, row.recordId))
    const all = await connectedOf(app, [row.recordId, ...(own?.customerId ? [own.customerId] : [])])
    // The deal itself where it came from there, else its customer.
    const direct = all.filter(({ connected }) => connected.recordId === row.recordId)
    const places = direct.length ? direct : all
    if (places.length === 0) throw conflict('Its record comes from no customer system.')
    const said: string[] = []
    for (const { connected, connection } of places) {
      const kind = connection.kinds.find(({ name }) => name === connected.kind)
      if (!kind) throw conflict(`${connection.name} has no “${connected.kind}” any more.`)
      const path = `${kind.path}/${encodeURIComponent(connected.theirId)}`
      const { status, link, files } = kind.push
      const values = [
        ...(step.status.trim() && status ? [[status, filled(following, step.status)] as const] : []),
        ...(step.link && link ? [[link, `${app.settings.publicUrl}/agreements/${row.id}`] as const] : []),
      ]
      if (values.length === 0 && !(step.file && files))
        throw conflict(`It is not said where ${connection.name} takes what becomes of agreements.`)
      const send = async (asking: Parameters<typeof askSystem>[2]) => {
        const asked = await askSystem(app, connection, asking, app.now())
        if (!asked.ok) throw new Error(`${connection.name}: ${asked.why}`)
        if (asked.status < 200 || asked.status >= 300)
          throw new Error(`${connection.name} answered ${asked.status}.`)
      }
      if (values.length) await send({ method: 'PATCH', path, body: nested(values) })
      if (step.file && files)
        await send({
          method: 'PUT',
          path: `${path}/${files}/${encodeURIComponent(`${row.number}.pdf`)}`,
          file: { bytes: await app.files.get(file.sha256), mediaType: 'application/pdf' },
        })
      said.push(
        `${connection.name}: ${[...values.map(([, value]) => value), ...(step.file && files ? ['the document'] : [])].join(', ')}`,
      )
    }
    return { said: said.join('; ') }
  },
}

/** Dotted names as groups in one another. */
export function nested(values: readonly (readonly [path: string, value: string])[]): Json {
  // Names that come from outside: an object that has nothing by itself takes every one of them as its own.
  const empty = () => Object.create(null) as Record<string, Json>
  const root = empty()
  for (const [path, value] of values) {
    const names = path.split('.')
    let place = root
    for (const name of names.slice(0, -1)) {
      const there = place[name]
      place = (typeof there === 'object' && there !== null ? there : (place[name] = empty())) as Record<
        string,
        Json
      >
    }
    place[names.at(-1)!] = value
  }
  return root
}
