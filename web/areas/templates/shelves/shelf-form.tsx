import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { Input, Labelled } from '#web/parts/input.tsx'
import { Loading } from '#web/parts/states.tsx'

type Shelf = NonNullable<ReturnType<typeof useAnswer<'shelves'>>['data']>[number]

const RIGHTS = ['use', 'edit', 'publish'] as const

/** A shelf's name, and which teams may use, edit and publish what stands on it. */
export function ShelfForm({ shelf, onDone }: { readonly shelf: Shelf | null; readonly onDone: () => void }) {
  const teams = useAnswer('teams')
  const [name, setName] = useState(shelf?.name ?? '')
  const [rights, setRights] = useState<Shelf['rights']>(shelf?.rights ?? [])
  const save = useMutation({
    mutationFn: async () => {
      const body = { name: name.trim(), rights: rights.filter((each) => RIGHTS.some((right) => each[right])) }
      if (shelf) await call('saveShelf', { params: { id: shelf.id }, body })
      else await call('makeShelf', { body })
    },
    onSuccess: onDone,
  })
  if (!teams.data) return <Loading />
  const of = (team: string) =>
    rights.find((each) => each.team === team) ?? { team, use: false, edit: false, publish: false }
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        if (name.trim()) save.mutate()
      }}
    >
      <Labelled label="Name">
        <Input
          autoFocus={!shelf}
          maxLength={200}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </Labelled>
      <table className="mt-4 w-full text-left text-sm">
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
                      setRights([
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
      <p className="mt-2 text-xs text-soft">
        Without any tick, everyone may do here what their own rights allow.
      </p>
      {save.isError && (
        <p role="alert" className="mt-2 text-sm text-brick">
          {problemText(save.error)}
        </p>
      )}
      <div className="mt-3 flex justify-end">
        <Button kind="main" type="submit" disabled={!name.trim()} busy={save.isPending}>
          {shelf ? 'Keep' : 'Make the shelf'}
        </Button>
      </div>
    </form>
  )
}
