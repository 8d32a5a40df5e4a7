import { Check } from 'lucide-react'
import { type ReactNode, useEffect, useId, useRef, useState } from 'react'

/** One thing to choose. */
export interface Pick {
  readonly value: string
  readonly label: string
  /** What it is, or whose. */
  readonly hint: string
}

const has = ({ label }: Pick, text: string): boolean =>
  label.toLowerCase().includes(text.trim().toLowerCase())

/**
 * A box to find something in and, under it, what is found (WAI-ARIA: a combobox with its list shown): arrows go through it, Enter
 * takes the one that is reached, the first to begin with. Where the keys are shows only while the box has the focus.
 */
export function PickList({
  label,
  placeholder,
  picks,
  chosen,
  focused,
  none,
  onText,
  onChoose,
}: {
  readonly label: string
  readonly placeholder: string
  readonly picks: readonly Pick[]
  readonly chosen: string | null
  /** It is what comes next: the box takes the focus. */
  readonly focused: boolean
  /** Said where nothing is found. */
  readonly none: ReactNode
  /** Told what is looked for, where whoever gives the picks finds them; else those are shown that have it in their names. */
  readonly onText?: (text: string) => void
  readonly onChoose: (value: string) => void
}) {
  const id = useId()
  const box = useRef<HTMLInputElement>(null)
  useEffect(() => {
    if (focused) box.current?.focus()
  }, [focused])
  const [{ text, reached }, set] = useState({ text: '', reached: 0 })
  const shown = onText ? picks : picks.filter((pick) => has(pick, text))
  const at = Math.min(reached, shown.length - 1)
  const idOf = (place: number) => `${id}-${place}`
  const reach = (place: number) => {
    if (shown.length === 0) return
    const next = (place + shown.length) % shown.length
    set({ text, reached: next })
    document.getElementById(idOf(next))?.scrollIntoView({ block: 'nearest' })
  }
  return (
    <div className="group">
      <input
        role="combobox"
        aria-label={label}
        aria-expanded
        aria-controls={id}
        aria-activedescendant={shown[at] && idOf(at)}
        autoComplete="off"
        className="w-full rounded-sm border border-hair bg-sheet px-2 py-1.5 text-sm"
        placeholder={placeholder}
        ref={box}
        value={text}
        onChange={(event) => {
          set({ text: event.target.value, reached: 0 })
          onText?.(event.target.value)
        }}
        onKeyDown={(event) => {
          const by = { ArrowDown: 1, ArrowUp: -1 }[event.key]
          const reachedPick = shown[at]
          if (by !== undefined) reach(at + by)
          else if (event.key === 'Enter' && reachedPick) onChoose(reachedPick.value)
          else return
          event.preventDefault()
        }}
      />
      <ul id={id} role="listbox" aria-label={label} className="mt-1">
        {shown.map((pick, i) => (
          <li
            key={pick.value}
            id={idOf(i)}
            role="option"
            aria-selected={pick.value === chosen}
            className={`flex min-h-9 cursor-pointer items-center gap-3 border-b border-hair/60 px-2 py-1 text-sm hover:bg-wash ${i === at ? 'group-focus-within:bg-petrol-wash' : ''}`}
            // The box keeps the focus: what is written in it goes on finding.
            onMouseDown={(event) => event.preventDefault()}
            onClick={() => onChoose(pick.value)}
          >
            <span className={`min-w-0 truncate ${pick.value === chosen ? 'font-semibold' : ''}`}>
              {pick.label}
            </span>
            {pick.value === chosen && <Check size={14} className="shrink-0 text-petrol" aria-hidden />}
            <span className="ml-auto shrink-0 text-soft">{pick.hint}</span>
          </li>
        ))}
      </ul>
      {shown.length === 0 && <p className="py-2 text-sm text-soft">{none}</p>}
    </div>
  )
}
