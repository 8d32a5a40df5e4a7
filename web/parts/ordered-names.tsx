import { ArrowDown, ArrowUp, X } from 'lucide-react'

/** A few named things in an order: moved up and down, or taken out. */
export function OrderedNames({
  ids,
  nameOf,
  onChange,
}: {
  readonly ids: readonly string[]
  readonly nameOf: (id: string) => string
  readonly onChange: (ids: readonly string[]) => void
}) {
  const move = (from: number, to: number) => onChange(ids.toSpliced(from, 1).toSpliced(to, 0, ids[from]!))
  const tool = 'rounded-sm p-1 text-soft hover:bg-wash hover:text-ink disabled:opacity-35'
  return (
    <ol className="text-sm">
      {ids.map((id, i) => (
        <li key={id} className="flex items-center gap-2 border-b border-hair/60 py-1">
          <span className="w-5 text-right text-soft tabular-nums">{i + 1}</span>
          <span className="flex-1 truncate">{nameOf(id)}</span>
          <button
            type="button"
            className={tool}
            aria-label={`${nameOf(id)} further up`}
            disabled={i === 0}
            onClick={() => move(i, i - 1)}
          >
            <ArrowUp size={14} />
          </button>
          <button
            type="button"
            className={tool}
            aria-label={`${nameOf(id)} further down`}
            disabled={i === ids.length - 1}
            onClick={() => move(i, i + 1)}
          >
            <ArrowDown size={14} />
          </button>
          <button
            type="button"
            className={tool}
            aria-label={`Without ${nameOf(id)}`}
            onClick={() => onChange(ids.toSpliced(i, 1))}
          >
            <X size={14} />
          </button>
        </li>
      ))}
    </ol>
  )
}
