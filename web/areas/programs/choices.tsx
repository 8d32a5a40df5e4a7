/** Names of which several can be checked. */
export function Choices<N extends string>({
  names,
  chosen,
  onChange,
}: {
  readonly names: readonly N[]
  readonly chosen: readonly N[]
  readonly onChange: (chosen: N[]) => void
}) {
  return names.map((name) => (
    <label key={name} className="flex items-center gap-2 py-0.5">
      <input
        type="checkbox"
        checked={chosen.includes(name)}
        onChange={(event) =>
          onChange(event.target.checked ? [...chosen, name] : chosen.filter((each) => each !== name))
        }
      />
      {name}
    </label>
  ))
}
