import * as v from 'valibot'
import { call, useAnswer } from '#web/api/client.ts'
import { filled } from '#web/parts/form/entries.ts'
import { TextField } from '#web/parts/form/fields.tsx'
import { Form } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import { Loading } from '#web/parts/states.tsx'

type Shelf = NonNullable<ReturnType<typeof useAnswer<'shelves'>>['data']>[number]

const RIGHTS = ['use', 'edit', 'publish'] as const

const shelfSchema = v.object({
  name: filled('Enter a name.'),
  rights: v.pipe(
    v.array(v.object({ team: v.string(), use: v.boolean(), edit: v.boolean(), publish: v.boolean() })),
    v.transform((rights) => rights.filter((each) => RIGHTS.some((right) => each[right]))),
  ),
})

/** A shelf's name, and which teams may use, edit and publish what stands on it. */
export function ShelfForm({ shelf, onDone }: { readonly shelf: Shelf | null; readonly onDone: () => void }) {
  const teams = useAnswer('teams')
  const entry = useEntry({
    schema: shelfSchema,
    start: { name: shelf?.name ?? '', rights: shelf?.rights ?? [] },
    send: async (body) => {
      if (shelf) await call('saveShelf', { params: { id: shelf.id }, body })
      else await call('makeShelf', { body })
    },
    onDone,
  })
  const rights = entry.value('rights')
  if (!teams.data) return <Loading />
  const of = (team: string) =>
    rights.find((each) => each.team === team) ?? { team, use: false, edit: false, publish: false }
  return (
    <Form entry={entry} submit={shelf ? 'Save shelf' : 'Create shelf'}>
      <TextField label="Name" of={entry.at('name')} autoFocus={!shelf} maxLength={200} />
      <table className="w-full text-left text-sm">
        <thead className="text-xs text-soft">
          <tr>
            <th className="font-normal">Team</th>
            {RIGHTS.map((right) => (
              <th key={right} className="w-20 text-center font-normal">
                may {right}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {teams.data.map(({ id, name: team, members }) => (
            <tr key={id} className="border-t border-hair/60">
              <td className="py-1.5">
                {team}
                <span className="block text-xs text-soft">{members.join(', ')}</span>
              </td>
              {RIGHTS.map((right) => (
                <td key={right} className="text-center">
                  <input
                    type="checkbox"
                    aria-label={`${team} may ${right}`}
                    checked={of(id)[right]}
                    onChange={(event) =>
                      entry.set('rights', [
                        ...rights.filter((each) => each.team !== id),
                        { ...of(id), [right]: event.target.checked },
                      ])
                    }
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="text-xs text-soft">
        If no box is checked, everyone may do here what their own rights allow.
      </p>
    </Form>
  )
}
