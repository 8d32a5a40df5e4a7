import type { FoundKind } from '#contract/search.ts'
import { useSettled } from '#web/parts/use-settled.ts'
import type { Right } from '#contract/person.ts'
import { usePerson } from './person.ts'
import { Command } from 'cmdk'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { useAnswer } from '#web/api/client.ts'
import { Dialog } from '#web/parts/dialog.tsx'
import { AREAS } from './areas.ts'
import { useOfferedActs } from './commands.ts'
import { fits } from './fits.ts'

interface Found {
  readonly label: string
  readonly hint: string
  /** Where it leads, or what it does. */
  readonly to: string | (() => void)
  /** Tells it from others of its name. */
  readonly key?: string
  /** Other words that it is looked for by. */
  readonly words?: readonly string[]
}

/** What can be begun from anywhere, by who may. */
const BEGUN: readonly (Found & { readonly right: Right })[] = [
  {
    label: 'New agreement',
    hint: 'Begin',
    to: '/agreements/new',
    right: 'runs',
    words: ['make', 'create', 'contract', 'letter', 'draft'],
  },
  { label: 'New template', hint: 'Begin', to: '/templates?new=yes', right: 'templates', words: ['create'] },
  {
    label: 'New run',
    hint: 'Begin',
    to: '/records/sheets',
    right: 'runs',
    words: ['bulk', 'batch', 'many', 'upload', 'spreadsheet'],
  },
]

/** Places inside the areas. */
const PLACES: readonly Found[] = [
  { label: 'Clause library', hint: 'Templates', to: '/templates/library' },
  { label: 'Packets', hint: 'Templates', to: '/templates/packets' },
  { label: 'Intake forms', hint: 'Templates', to: '/templates/intakes', words: ['responses', 'public link'] },
  { label: 'Customers', hint: 'Records', to: '/records/customers' },
  { label: 'Contacts', hint: 'Records', to: '/records/contacts', words: ['people'] },
  { label: 'Deals', hint: 'Records', to: '/records/deals' },
  { label: 'Prices', hint: 'Records', to: '/records/prices' },
  { label: 'Sheets', hint: 'Records', to: '/records/sheets', words: ['upload', 'csv', 'xlsx'] },
  { label: 'Imports', hint: 'Records', to: '/records/imports' },
  { label: 'Approvals', hint: 'Rules', to: '/approvals' },
  { label: 'Absences', hint: 'Rules', to: '/absences', words: ['away', 'stand-in', 'people', 'team'] },
  { label: 'System trail', hint: 'Rules', to: '/rules/trail', words: ['log', 'audit'] },
  { label: 'Organization', hint: 'Settings', to: '/settings', words: ['company', 'time zone', 'language'] },
  { label: 'API keys', hint: 'Settings', to: '/settings/programs', words: ['program', 'token'] },
  { label: 'Webhooks', hint: 'Settings', to: '/settings/programs', words: ['events'] },
  { label: 'Filing folders', hint: 'Settings', to: '/settings/programs', words: ['WebDAV'] },
  { label: 'API reference', hint: 'Settings', to: '/settings/programs/calls', words: ['OpenAPI'] },
  {
    label: 'Connections',
    hint: 'Settings',
    to: '/settings/programs/connections',
    words: ['customer system'],
  },
]

const AREA_LINKS: readonly Found[] = AREAS.map(({ label, path }) => ({ label, hint: 'Area', to: path }))

/**
 * Ctrl/Cmd+K: does what can be done where one is, begins something new, or goes to an area or a place in it, or to whatever has these
 * words in its name or number, or nearly so. What the server finds is shown as it found it; the rest by how well it fits.
 */
export function CommandBar({ open, onClose }: { readonly open: boolean; readonly onClose: () => void }) {
  return (
    <Dialog title="Find or do" open={open} onClose={onClose} hideTitle>
      <Finder onClose={onClose} />
    </Dialog>
  )
}

function Finder({ onClose }: { readonly onClose: () => void }) {
  const [{ text, reached }, set] = useState({ text: '', reached: '' })
  const navigate = useNavigate()
  const offered = useOfferedActs()
  const searched = useSearched(text.trim())
  const go = ({ to }: Found) => {
    onClose()
    if (typeof to === 'string') void navigate(to)
    // When the bar has gone, and the focus is back where it was.
    else setTimeout(to, 30)
  }
  const { rights } = usePerson()
  const begun = BEGUN.filter(({ right }) => rights.includes(right))
  const here: readonly Found[] = offered.map(({ label, hint, run }) => ({ label, hint, to: run }))
  const { well, nearly } = fitting([...here, ...begun, ...AREA_LINKS, ...PLACES], text.trim())
  const lines = [...well, ...searched, ...nearly]
  // What the server finds comes later: the first line is reached until the keys go to another that is still there.
  const at = lines.find((line) => valueOf(line) === reached) ?? lines[0]
  return (
    <Command
      label="Find or do"
      loop
      shouldFilter={false}
      value={at ? valueOf(at) : ''}
      onValueChange={(value) => set({ text, reached: value })}
    >
      <Command.Input
        autoFocus
        className="w-full border-b border-hair bg-transparent pb-2 text-lg outline-none"
        placeholder="What to do, a place, or a name or number"
        value={text}
        onValueChange={(value) => set({ text: value, reached: '' })}
      />
      <Command.List className="mt-2 max-h-[50vh] overflow-auto" label="Found">
        {lines.map((found) => (
          <Line key={valueOf(found)} found={found} onGo={go} />
        ))}
        <Command.Empty className="px-2 py-1.5 text-soft">No match. Try fewer letters.</Command.Empty>
      </Command.List>
    </Command>
  )
}

/** What tells a line from every other. */
const valueOf = ({ label, hint, key = '' }: Found): string => `${label} ${hint} ${key}`.trim()

/** Lines that have the words, the best first, and those that have them nearly. */
function fitting(lines: readonly Found[], text: string) {
  const scored = lines
    .map((line) => ({ line, score: fits(`${line.label} ${line.hint}`, text, line.words) }))
    .sort((a, b) => b.score - a.score)
  const of = (from: number, to: number) =>
    scored.filter(({ score }) => score >= from && score < to).map(({ line }) => line)
  return { well: of(0.5, 2), nearly: of(0.1, 0.5) }
}

function Line({ found, onGo }: { readonly found: Found; readonly onGo: (found: Found) => void }) {
  const { label, hint } = found
  return (
    <Command.Item
      value={valueOf(found)}
      className="flex cursor-pointer justify-between gap-4 px-2 py-1.5 aria-selected:bg-petrol-wash"
      onSelect={() => onGo(found)}
    >
      <span className="truncate">{label}</span>
      <span className="text-sm whitespace-nowrap text-soft">{hint}</span>
    </Command.Item>
  )
}

/** Where what was found is, and what it is called. */
const PLACE: Readonly<Record<FoundKind, readonly [hint: string, path: string]>> = {
  customer: ['Customer', '/records/customers/'],
  contact: ['Contact', '/records/contacts/'],
  deal: ['Deal', '/records/deals/'],
  price: ['Price', '/records/prices/'],
  agreement: ['Agreement', '/agreements/'],
  template: ['Template', '/templates/'],
  packet: ['Packet', '/templates/packets?open='],
  run: ['Run', '/runs/'],
  sheet: ['Sheet', '/records/sheets/'],
  'rule table': ['Rule table', '/rules/'],
  'intake form': ['Intake form', '/intakes/'],
}

/** Milliseconds after the last key that the server is asked. */
const PAUSE = 80

/** What the server finds by these words; without any, what was changed last. */
function useSearched(text: string): readonly Found[] {
  const q = useSettled(text, PAUSE)
  const { data = [] } = useAnswer('search', { query: { q } }, { keep: true })
  return data.map(({ kind, id, label, of }) => {
    const [hint, path] = PLACE[kind]
    return { key: id, label, hint: of ? `${hint}, ${of}` : hint, to: `${path}${id}` }
  })
}
