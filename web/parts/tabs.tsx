interface Props<T extends string> {
  readonly label: string
  readonly tabs: readonly T[]
  readonly chosen: T
  readonly onChoose: (tab: T) => void
  /** Shown behind a tab's name. */
  readonly counts?: Partial<Record<T, number | undefined>>
}

/** Views of one thing, side by side; the chosen one belongs in the address where it is worth a link. */
export function Tabs<T extends string>({ label, tabs, chosen, onChoose, counts }: Props<T>) {
  return (
    <div role="tablist" aria-label={label} className="flex gap-1 text-sm">
      {tabs.map((tab) => (
        <button
          key={tab}
          role="tab"
          aria-selected={chosen === tab}
          className={`rounded-sm px-2 py-0.5 first-letter:capitalize ${chosen === tab ? 'bg-petrol-wash font-semibold text-petrol' : 'text-soft hover:text-ink'}`}
          onClick={() => onChoose(tab)}
        >
          {tab}
          {counts?.[tab] !== undefined && ` ${counts[tab]}`}
        </button>
      ))}
    </div>
  )
}
