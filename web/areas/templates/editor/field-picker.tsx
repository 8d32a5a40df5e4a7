import { useState } from 'react'
import type { Outline } from '#core/outline/field.ts'
import { Input } from '#web/parts/input.tsx'

/** Finds a field by typing part of its name or label; arrows and Enter choose. */
export function FieldPicker({
  outline,
  onPick,
}: {
  readonly outline: Outline
  readonly onPick: (name: string) => void
}) {
  const [text, setText] = useState('')
  const [at, setAt] = useState(0)
  const found = outline
    .filter(({ name, label }) => `${name} ${label}`.toLowerCase().includes(text.toLowerCase()))
    .slice(0, 200)
  return (
    <div className="w-72">
      <Input
        autoFocus
        aria-label="Find a field"
        placeholder="Find a field"
        value={text}
        onChange={(event) => {
          setText(event.target.value)
          setAt(0)
        }}
        onKeyDown={(event) => {
          if (event.key === 'ArrowDown') setAt((now) => Math.min(now + 1, found.length - 1))
          else if (event.key === 'ArrowUp') setAt((now) => Math.max(now - 1, 0))
          else if (event.key === 'Enter' && found[at]) onPick(found[at].name)
          else return
          event.preventDefault()
        }}
      />
      <ul className="mt-2 max-h-64 overflow-auto text-sm">
        {found.map(({ name, label, type, computed }, i) => (
          <li key={name}>
            <button
              className={`flex w-full items-baseline justify-between gap-2 px-1.5 py-1 text-left ${i === at ? 'bg-petrol-wash' : ''}`}
              onMouseEnter={() => setAt(i)}
              onClick={() => onPick(name)}
            >
              <span>
                {label} <span className="text-xs text-soft">{name}</span>
              </span>
              <span className="text-xs text-soft">{computed ? 'computed' : type}</span>
            </button>
          </li>
        ))}
        {found.length === 0 && <li className="px-1.5 py-1 text-soft">No field is called that.</li>}
      </ul>
    </div>
  )
}
