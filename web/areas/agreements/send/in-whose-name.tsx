import { Labelled } from '#web/parts/input.tsx'

/** In whose name it goes: one's own, or that of a team one is in. Answers go to whoever sends it all the same. */
export function InWhoseName({
  teams,
  team,
  onChange,
}: {
  readonly teams: readonly { readonly id: string; readonly name: string }[]
  readonly team: string | null
  readonly onChange: (team: string | null) => void
}) {
  if (teams.length === 0 && team === null) return null
  return (
    <div className="mt-3 max-w-xs">
      <Labelled label="Send in the name of">
        <select
          className="w-full rounded-sm border border-hair bg-sheet px-2 py-1 text-sm"
          value={team ?? ''}
          onChange={(event) => onChange(event.target.value || null)}
        >
          <option value="">your own</option>
          {teams.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
          {team !== null && !teams.some(({ id }) => id === team) && (
            <option value={team}>a team that you are not in</option>
          )}
        </select>
      </Labelled>
    </div>
  )
}
