import { useEffect, useRef, useState } from 'react'
import { BLANK_KINDS, type BlankKind } from '#core/document/tree.ts'
import { fieldsByName } from '#core/outline/field.ts'
import { FieldPicker } from '#web/areas/templates/editor/field-picker.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { Input } from '#web/parts/input.tsx'
import { RoleMark } from '#web/parts/signs/role-mark.tsx'
import type { Placing } from './placing.ts'

/** The key of each kind, while the menu is open. */
const KIND_KEYS: Readonly<Record<BlankKind, string>> = {
  signature: 's',
  initials: 'i',
  date: 'd',
  name: 'a',
  title: 'e',
  company: 'o',
  text: 't',
  number: 'n',
  tick: 'x',
  choice: 'c',
  file: 'f',
}

/** What comes to the pointer: whose blank and which, each by one key or a click; or a value, or words. */
export function PlaceMenu({ placing, onDone }: { readonly placing: Placing; readonly onDone: () => void }) {
  const { content, all } = useStudio()
  const { roles } = content
  const [role, setRole] = useState(placing.role)
  const [part, setPart] = useState<'blank' | 'field' | 'words'>(roles.length ? 'blank' : 'field')
  const root = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (part === 'blank') root.current?.focus()
  }, [part])
  const blank = (kind: BlankKind) => {
    if (role) placing.placeBlank(kind, role)
    onDone()
  }
  return (
    <div
      ref={root}
      role="menu"
      aria-label="What stands here"
      tabIndex={-1}
      className="w-64 text-sm outline-none"
      onKeyDown={(event) => {
        if (event.ctrlKey || event.metaKey || event.altKey || event.target instanceof HTMLInputElement) return
        const kind = BLANK_KINDS.find((each) => KIND_KEYS[each] === event.key)
        const nth = roles[Number(event.key) - 1]
        if (nth) setRole(nth.key)
        else if (event.key === 'v') setPart('field')
        else if (event.key === 'w') setPart('words')
        else if (kind && role) blank(kind)
        else return
        event.preventDefault()
        event.stopPropagation()
      }}
    >
      {part === 'blank' && (
        <>
          <div className="flex flex-wrap gap-1" role="radiogroup" aria-label="Role">
            {roles.map((each, i) => (
              <button
                key={each.key}
                role="radio"
                aria-checked={each.key === role}
                title={`Key ${i + 1}`}
                className={`flex items-center gap-1 rounded-sm border px-1.5 py-0.5 ${each.key === role ? 'border-petrol bg-petrol-wash' : 'border-hair'}`}
                onClick={() => setRole(each.key)}
              >
                <RoleMark shape={each.shape} letter={each.label} /> {each.label}
                <kbd className="text-xs text-soft">{i + 1}</kbd>
              </button>
            ))}
          </div>
          <div className="mt-2 grid grid-cols-2 gap-x-2">
            {BLANK_KINDS.map((kind) => (
              <button
                key={kind}
                role="menuitem"
                className="flex items-baseline justify-between rounded-sm px-1.5 py-0.5 text-left hover:bg-petrol-wash"
                onClick={() => blank(kind)}
              >
                {kind} <kbd className="text-xs text-soft">{KIND_KEYS[kind]}</kbd>
              </button>
            ))}
          </div>
        </>
      )}
      {part === 'field' && (
        <FieldPicker
          outline={[...fieldsByName(all)].map(([name, { field }]) => ({ ...field, name }))}
          onPick={(name) => {
            placing.placeField(name)
            onDone()
          }}
        />
      )}
      {part === 'words' && <Words onDone={(text) => (text && placing.placeWords(text), onDone())} />}
      <div className="mt-2 flex gap-1 border-t border-hair pt-2">
        {(
          [
            ['blank', 'a blank', ''],
            ['field', 'a value', 'v'],
            ['words', 'words', 'w'],
          ] as const
        ).map(([which, label, key]) => (
          <button
            key={which}
            role="menuitem"
            disabled={which === 'blank' && roles.length === 0}
            className={`rounded-sm px-1.5 py-0.5 disabled:opacity-40 ${part === which ? 'bg-petrol-wash text-petrol' : 'hover:bg-wash'}`}
            onClick={() => setPart(which)}
          >
            {label} {key && <kbd className="text-xs text-soft">{key}</kbd>}
          </button>
        ))}
      </div>
      {roles.length === 0 && (
        <p className="mt-1 text-xs text-soft">A blank belongs to a role: say who signs under Roles first.</p>
      )}
    </div>
  )
}

function Words({ onDone }: { readonly onDone: (text: string) => void }) {
  const [text, setText] = useState('')
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        onDone(text.trim())
      }}
    >
      <Input
        autoFocus
        aria-label="Words"
        placeholder="Words, or a sign such as X"
        maxLength={500}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
    </form>
  )
}
