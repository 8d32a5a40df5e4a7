interface Props<T extends string> {
  readonly label: string
  readonly tabs: readonly T[]
  readonly chosen: T
  readonly onChoose: (tab: T) => void
  /** Shown behind a tab's name. */
  readonly counts?: Partial<Record<T, number | undefined>>
}

/** Views of one thing, side by side, arrows move between them (WAI-ARIA tabs pattern); the chosen one belongs in the address where it is worth a link. */
export function Tabs<T extends string>({ label, tabs, chosen, onChoose, counts }: Props<T>) {
  return (
    <div
      role="tablist"
      aria-label={label}
      className="flex flex-wrap gap-1 text-sm"
      onKeyDown={(event) => {
        const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key]
        if (!by) return
        event.preventDefault()
        const next = tabs[(tabs.indexOf(chosen) + by + tabs.length) % tabs.length]!
        onChoose(next)
        event.currentTarget.querySelectorAll<HTMLElement>('[role=tab]')[tabs.indexOf(next)]?.focus()
      }}
    >
      {tabs.map((tab) => (
        <button
          key={tab}
          role="tab"
          aria-selected={chosen === tab}
          tabIndex={chosen === tab ? 0 : -1}
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
