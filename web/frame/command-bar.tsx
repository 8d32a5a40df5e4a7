import { useId, useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { Dialog } from '#web/parts/dialog.tsx'
import { useAnswer } from '#web/api/client.ts'
import { useOfferedActs } from './commands.ts'
import { AREAS } from './areas.ts'

interface Command {
  readonly label: string
  readonly hint: string
  /** Where it leads, or what it does. */
  readonly to: string | (() => void)
}

/** Lines shown at the most. */
const MOST = 14

/** Places inside the areas. */
const PLACES: readonly Command[] = [
  { label: 'Clause library', hint: 'Templates', to: '/templates/library' },
  { label: 'Packets', hint: 'Templates', to: '/templates/packets' },
  { label: 'Customers', hint: 'Records', to: '/records/customers' },
  { label: 'Contacts', hint: 'Records', to: '/records/contacts' },
  { label: 'Deals', hint: 'Records', to: '/records/deals' },
  { label: 'Prices', hint: 'Records', to: '/records/prices' },
  { label: 'Sheets', hint: 'Records', to: '/records/sheets' },
  { label: 'Imports', hint: 'Records', to: '/records/imports' },
  { label: 'Trail of the installation', hint: 'Rules', to: '/rules/trail' },
  { label: 'Programs and their keys', hint: 'Settings', to: '/settings/programs' },
]

/** Ctrl/Cmd+K: does what can be done where one is, or goes to an area or a place in it, a template, a run, a sheet, a customer, or an agreement by number or name. */
export function CommandBar({ open, onClose }: { readonly open: boolean; readonly onClose: () => void }) {
  const [text, setText] = useState('')
  const [chosen, setChosen] = useState(0)
  const list = useId()
  const navigate = useNavigate()
  const templates = useAnswer('templates', {}, { enabled: open })
  const runs = useAnswer('runs', {}, { enabled: open })
  const sheets = useAnswer('sheets', {}, { enabled: open })
  const searched = { enabled: open && text.trim().length > 1, keep: true }
  const found = useAnswer('agreements', { query: { search: text, limit: '8' } }, searched)
  const customers = useAnswer(
    'records',
    { params: { kind: 'customer' }, query: { search: text.trim(), limit: '5' } },
    searched,
  )
  const offered = useOfferedActs()
  const commands = useMemo(() => {
    const fits = (label: string) => label.toLowerCase().includes(text.trim().toLowerCase())
    const all: Command[] = [
      ...offered.map(({ label, hint, run }) => ({ label, hint, to: run })),
      ...AREAS.map(({ label, path }) => ({ label, hint: 'Area', to: path })),
      ...PLACES,
      ...(templates.data ?? []).map(({ id, name }) => ({
        label: name,
        hint: 'Template',
        to: `/templates/${id}`,
      })),
      ...(runs.data ?? []).map(({ id, name }) => ({ label: name, hint: 'Run', to: `/runs/${id}` })),
      ...(sheets.data ?? []).map(({ id, name }) => ({
        label: name,
        hint: 'Sheet',
        to: `/records/sheets/${id}`,
      })),
    ]
    if (text.trim().length < 2) return all.filter(({ label }) => fits(label)).slice(0, MOST)
    const people = (customers.data?.records ?? []).map(({ id, name }) => ({
      label: name,
      hint: 'Customer',
      to: `/records/customers/${id}`,
    }))
    const agreements = (found.data?.agreements ?? []).map(({ id, number, name }) => ({
      label: `${number}  ${name}`,
      hint: 'Agreement',
      to: `/agreements/${id}`,
    }))
    return [...all.filter(({ label }) => fits(label)).slice(0, MOST), ...people, ...agreements].slice(0, MOST)
  }, [text, offered, templates.data, runs.data, sheets.data, customers.data, found.data])
  const go = (command: Command | undefined) => {
    if (!command) return
    onClose()
    setText('')
    setChosen(0)
    const { to } = command
    if (typeof to === 'string') void navigate(to)
    // When the bar has gone, and the focus is back where it was.
    else setTimeout(to, 30)
  }
  return (
    <Dialog title="Find or do" open={open} onClose={onClose} hideTitle>
      <input
        autoFocus
        role="combobox"
        aria-label="Find or do"
        aria-expanded
        aria-controls={`${list}-list`}
        aria-activedescendant={commands[chosen] ? `${list}-${chosen}` : undefined}
        className="w-full border-b border-hair bg-transparent pb-2 text-lg outline-none"
        placeholder="What to do, or an area, template, run, agreement by number or name"
        value={text}
        onChange={(event) => {
          setText(event.target.value)
          setChosen(0)
        }}
        onKeyDown={(event) => {
          if (event.key === 'ArrowDown') setChosen((at) => Math.min(at + 1, commands.length - 1))
          else if (event.key === 'ArrowUp') setChosen((at) => Math.max(at - 1, 0))
          else if (event.key === 'Enter') go(commands[chosen])
          else return
          event.preventDefault()
        }}
      />
      <ul className="mt-2" role="listbox" id={`${list}-list`} aria-label="Found">
        {commands.map((command, i) => (
          <li
            key={`${command.hint} ${command.label}`}
            id={`${list}-${i}`}
            role="option"
            aria-selected={i === chosen}
            className={`flex cursor-pointer justify-between gap-4 px-2 py-1.5 ${i === chosen ? 'bg-petrol-wash' : ''}`}
            onMouseEnter={() => setChosen(i)}
            onClick={() => go(command)}
          >
            <span className="truncate">{command.label}</span>
            <span className="text-sm text-soft">{command.hint}</span>
          </li>
        ))}
      </ul>
      {commands.length === 0 && <p className="px-2 py-1.5 text-soft">Nothing is called that.</p>}
    </Dialog>
  )
}
