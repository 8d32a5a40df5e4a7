import { useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { Dialog } from '#web/parts/dialog.tsx'
import { useAnswer } from './client.ts'
import { AREAS } from './shell.tsx'

interface Command {
  readonly label: string
  readonly hint: string
  readonly to: string
}

/** Ctrl/Cmd+K: goes to an area, a template, a run, or an agreement by number or name. */
export function CommandBar({ open, onClose }: { readonly open: boolean; readonly onClose: () => void }) {
  const [text, setText] = useState('')
  const [chosen, setChosen] = useState(0)
  const navigate = useNavigate()
  const templates = useAnswer('templates', {}, { enabled: open })
  const runs = useAnswer('runs', {}, { enabled: open })
  const found = useAnswer(
    'agreements',
    { query: { search: text, limit: '8' } },
    { enabled: open && text.length > 1, keep: true },
  )
  const commands = useMemo(() => {
    const fits = (label: string) => label.toLowerCase().includes(text.trim().toLowerCase())
    const all: Command[] = [
      ...AREAS.map(({ label, path }) => ({ label, hint: 'Area', to: path })),
      ...(templates.data ?? []).map(({ id, name }) => ({
        label: name,
        hint: 'Template',
        to: `/templates/${id}`,
      })),
      ...(runs.data ?? []).map(({ id, name }) => ({ label: name, hint: 'Run', to: `/runs/${id}` })),
    ]
    const agreements =
      text.length > 1
        ? (found.data?.agreements ?? []).map(({ id, number, name }) => ({
            label: `${number}  ${name}`,
            hint: 'Agreement',
            to: `/agreements/${id}`,
          }))
        : []
    return [...all.filter(({ label }) => fits(label)), ...agreements].slice(0, 12)
  }, [text, templates.data, runs.data, found.data])
  const go = (command: Command | undefined) => {
    if (!command) return
    onClose()
    setText('')
    void navigate(command.to)
  }
  return (
    <Dialog title="Find or do" open={open} onClose={onClose} hideTitle>
      <input
        autoFocus
        aria-label="Find or do"
        className="w-full border-b border-hair bg-transparent pb-2 text-lg outline-none"
        placeholder="An area, template, run, or agreement by number or name"
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
      <ul className="mt-2">
        {commands.map((command, i) => (
          <li key={command.to}>
            <button
              className={`flex w-full justify-between px-2 py-1.5 text-left ${i === chosen ? 'bg-petrol-wash' : ''}`}
              onMouseEnter={() => setChosen(i)}
              onClick={() => go(command)}
            >
              <span>{command.label}</span>
              <span className="text-sm text-soft">{command.hint}</span>
            </button>
          </li>
        ))}
        {commands.length === 0 && <li className="px-2 py-1.5 text-soft">Nothing is called that.</li>}
      </ul>
    </Dialog>
  )
}
