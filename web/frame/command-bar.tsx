import type { Right } from '#contract/person.ts'
import { usePerson } from './person.ts'
import { Command } from 'cmdk'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { useAnswer } from '#web/api/client.ts'
import { Dialog } from '#web/parts/dialog.tsx'
import { AREAS } from './areas.ts'
import { useOfferedActs } from './commands.ts'

interface Found {
  readonly label: string
  readonly hint: string
  /** Where it leads, or what it does. */
  readonly to: string | (() => void)
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
 * Ctrl/Cmd+K: does what can be done where one is, or goes to an area or a place in it, a template, a run, a sheet, a customer, or an
 * agreement by number or name. What the server finds is shown as it found it; the rest by how well it fits.
 */
export function CommandBar({ open, onClose }: { readonly open: boolean; readonly onClose: () => void }) {
  return (
    <Dialog title="Find or do" open={open} onClose={onClose} hideTitle>
      <Finder onClose={onClose} />
    </Dialog>
  )
}

function Finder({ onClose }: { readonly onClose: () => void }) {
  const [text, setText] = useState('')
  const navigate = useNavigate()
  const offered = useOfferedActs()
  const known = useKnown()
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
  return (
    <Command label="Find or do" loop>
      <Command.Input
        autoFocus
        className="w-full border-b border-hair bg-transparent pb-2 text-lg outline-none"
        placeholder="What to do, or an area, template, run, agreement by number or name"
        value={text}
        onValueChange={setText}
      />
      <Command.List className="mt-2 max-h-[50vh] overflow-auto" label="Found">
        {[...here, ...begun, ...AREA_LINKS, ...PLACES, ...known].map((found) => (
          <Line key={`${found.hint} ${found.label}`} found={found} onGo={go} />
        ))}
        {searched.map((found) => (
          <Line key={`${found.hint} ${found.label}`} found={found} onGo={go} always />
        ))}
        <Command.Empty className="px-2 py-1.5 text-soft">No match. Try fewer letters.</Command.Empty>
      </Command.List>
    </Command>
  )
}

function Line({
  found,
  onGo,
  always = false,
}: {
  readonly found: Found
  readonly onGo: (found: Found) => void
  /** The server found it by words that are not in its label. */
  readonly always?: boolean
}) {
  const { label, hint, words = [] } = found
  return (
    <Command.Item
      value={`${label} ${hint}`}
      keywords={[...words]}
      forceMount={always}
      className="flex cursor-pointer justify-between gap-4 px-2 py-1.5 aria-selected:bg-petrol-wash"
      onSelect={() => onGo(found)}
    >
      <span className="truncate">{label}</span>
      <span className="text-sm text-soft">{hint}</span>
    </Command.Item>
  )
}

/** What there is few enough of to be known whole. */
function useKnown(): readonly Found[] {
  const templates = useAnswer('templates').data ?? []
  const runs = useAnswer('runs').data ?? []
  const sheets = useAnswer('sheets').data ?? []
  return [
    ...templates.map(({ id, name }) => ({ label: name, hint: 'Template', to: `/templates/${id}` })),
    ...runs.map(({ id, name }) => ({ label: name, hint: 'Run', to: `/runs/${id}` })),
    ...sheets.map(({ id, name }) => ({ label: name, hint: 'Sheet', to: `/records/sheets/${id}` })),
  ]
}

/** What the server finds by these words. */
function useSearched(search: string): readonly Found[] {
  const asked = { enabled: search.length > 1, keep: true }
  const agreements = useAnswer('agreements', { query: { search, limit: '8' } }, asked)
  const customers = useAnswer(
    'records',
    { params: { kind: 'customer' }, query: { search, limit: '5' } },
    asked,
  )
  if (!asked.enabled) return []
  return [
    ...(customers.data?.records ?? []).map(({ id, name }) => ({
      label: name,
      hint: 'Customer',
      to: `/records/customers/${id}`,
    })),
    ...(agreements.data?.agreements ?? []).map(({ id, number, name }) => ({
      label: `${number}  ${name}`,
      hint: 'Agreement',
      to: `/agreements/${id}`,
    })),
  ]
}
