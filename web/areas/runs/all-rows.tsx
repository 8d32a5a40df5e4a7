import { isNumeric } from '#core/outline/field-kinds.ts'
import { useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { doubtsAbout } from '#core/ceremony/doubts.ts'
import { useCall } from '#web/api/client.ts'
import { type Column, Table } from '#web/parts/table.tsx'
import { Input } from '#web/parts/input.tsx'
import { count } from '#web/parts/signs/when.tsx'
import { Button } from '#web/parts/button.tsx'
import { useFilters } from '#web/frame/use-filters.ts'
import { chosenFields, FieldsMenu, RowValue } from './row-value.tsx'
import { type RunRow, useRun } from './open-run/use-run.ts'

const rank: Readonly<Record<RunRow['state'], number>> = {
  failed: 0,
  'needs a hand': 1,
  ready: 2,
  made: 3,
  skipped: 4,
}
const colours: Partial<Record<RunRow['state'], string>> = {
  'needs a hand': 'text-ochre',
  failed: 'text-brick',
  skipped: 'text-soft',
}
const named: Partial<Record<RunRow['state'], string>> = { skipped: 'left out' }

const columns: readonly Column<RunRow>[] = [
  {
    id: 'row',
    accessorKey: 'row',
    header: 'Row',
    width: '64px',
    align: 'right',
    cell: ({ row: { original } }) =>
      original.sourceRows.length > 1 ? `${original.row} +${original.sourceRows.length - 1}` : original.row,
  },
  {
    id: 'label',
    accessorKey: 'label',
    header: 'For',
    width: 'minmax(130px, 1fr)',
    cell: ({ row }) => <span className="font-semibold">{row.original.label}</span>,
  },
  {
    id: 'state',
    accessorFn: (row) => rank[row.state],
    header: 'State',
    width: '98px',
    cell: ({ row: { original } }) => (
      <span className={colours[original.state] ?? ''}>
        {original.changed ? 'changed' : (named[original.state] ?? original.state)}
      </span>
    ),
  },
  {
    id: 'number',
    accessorKey: 'number',
    header: 'Number',
    width: '106px',
    cell: ({ row }) => row.original.number ?? '',
  },
  {
    id: 'pages',
    accessorFn: (row) => row.pages ?? 0,
    header: 'Pages',
    width: '58px',
    align: 'right',
    cell: ({ row: { original } }) => (
      <span className={original.overflow.length ? 'font-semibold text-ochre' : ''}>
        {original.pages ?? ''}
      </span>
    ),
  },
  {
    id: 'approvals',
    accessorFn: (row) => row.approvals.length,
    header: 'Approval, and signs in order',
    width: 'minmax(200px, 1.6fr)',
    cell: ({ row: { original } }) => (
      <span title={[...doubtsOf(original), note(original)].join(' ')}>
        {doubtsOf(original).length > 0 && <span className="text-ochre">{doubtsOf(original)[0]} </span>}
        {original.state === 'skipped' ? (
          <span className="text-soft">{original.problems[0]?.message}</span>
        ) : (
          note(original)
        )}
      </span>
    ),
  },
]

/** The columns with the values of fields among them; numbers once there are any. */
const withValues = (
  fields: ReturnType<typeof chosenFields>,
  numbered: boolean,
): readonly Column<RunRow>[] => [
  ...columns.slice(0, 3),
  ...fields.map((field): Column<RunRow> => ({
    id: `value ${field.name}`,
    header: field.label,
    enableSorting: false,
    width: '112px',
    ...(isNumeric(field.type) ? { align: 'right' } : {}),
    cell: ({ row }) => <RowValue row={row.original} field={field.name} fields={fields} />,
  })),
  ...columns.slice(3).filter(({ id }) => numbered || id !== 'number'),
]

const note = ({ approvals, people }: RunRow): string =>
  [
    ...approvals.map(({ approver }) => approver),
    [...people]
      .sort((a, b) => a.order - b.order)
      .map(({ name, label }) => name || `${label} not known`)
      .join(', '),
  ]
    .filter(Boolean)
    .join(' → ')

const perRow = new WeakMap<RunRow, readonly string[]>()

/** What is doubtful about whom a row is sent to: no address, none that can be, two who sign with one. */
function doubtsOf(row: RunRow): readonly string[] {
  const known = perRow.get(row)
  if (known) return known
  const people = row.people.map((each) => ({
    ...each,
    kind: 'signer' as const,
    phone: '',
    check: 'link' as const,
  }))
  const found =
    row.state === 'skipped'
      ? []
      : [
          ...new Set(
            people.flatMap((each) =>
              doubtsAbout(
                each,
                people.filter((other) => other !== each),
              ),
            ),
          ),
        ]
  perRow.set(row, found)
  return found
}

const FILTERS = [
  'all',
  'needs a hand',
  'ready',
  'made',
  'changed',
  'left out',
  'doubtful address',
  'to approve',
] as const
type Filter = (typeof FILTERS)[number]

const fits: Readonly<Record<Filter, (row: RunRow) => boolean>> = {
  all: () => true,
  'needs a hand': ({ state }) => state === 'needs a hand' || state === 'failed',
  ready: ({ state }) => state === 'ready',
  made: ({ state }) => state === 'made',
  changed: ({ changed }) => changed,
  'left out': ({ state }) => state === 'skipped',
  'doubtful address': (row) => doubtsOf(row).length > 0,
  'to approve': ({ approvals }) => approvals.length > 0,
}

/** Every row with what its check found: the ones that need a hand first, what is left out with its reason. */
export function AllRows() {
  const { rows, row: shown, show, run, may, setup } = useRun()
  const { search: address, to } = useFilters()
  const chosen = address.get('fields')
  const fields = useMemo(() => chosenFields(setup, chosen), [setup, chosen])
  const numbered = rows.some(({ number }) => number !== null)
  const shownColumns = useMemo(() => withValues(fields, numbered), [fields, numbered])
  const navigate = useNavigate()
  const [filter, setFilter] = useState<Filter>('all')
  const [search, setSearch] = useState('')
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set())
  const decide = useCall('decideRows', () => setSelected(new Set()))
  const trial = useCall('makeOutput', () => void navigate('?view=files'))
  const tryable = rows
    .filter(({ row, state }) => state === 'ready' && selected.has(String(row)))
    .map(({ row }) => row)
  const words = search.toLowerCase()
  const listed = rows
    .filter(fits[filter])
    .filter(({ label, number, people }) =>
      [label, number ?? '', ...people.map(({ name }) => name)].some((text) =>
        text.toLowerCase().includes(words),
      ),
    )
    .toSorted((a, b) => rank[a.state] - rank[b.state] || a.row - b.row)
  const open = rows.find(({ row }) => row === shown)
  const decided = (decision: 'make' | 'leave out' | null) =>
    decide.mutate({ params: { id: run.id }, body: { rows: [...selected].map(Number), decision } })
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="flex shrink-0 flex-wrap items-center gap-2 px-3 py-1.5 text-sm">
        <select
          aria-label="Rows shown"
          className="rounded-sm border border-hair bg-sheet px-2 py-1"
          value={filter}
          onChange={(event) => setFilter(event.target.value as Filter)}
        >
          {FILTERS.map((each) => (
            <option key={each} value={each}>
              {each} {count(rows.filter(fits[each]).length)}
            </option>
          ))}
        </select>
        <Input
          aria-label="Search rows"
          placeholder="Search"
          className="max-w-36"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
        {setup && (
          <FieldsMenu setup={setup} chosen={fields} onChoose={(names) => to({ fields: names || 'none' })} />
        )}
        {may && selected.size > 0 ? (
          <>
            <Button onClick={() => decided('leave out')}>Leave {count(selected.size)} out</Button>
            <Button kind="quiet" onClick={() => decided(null)}>
              Take in again
            </Button>
            {tryable.length > 0 && (
              <Button
                kind="quiet"
                title="Pages marked as a trial, that go to nobody"
                busy={trial.isPending}
                onClick={() =>
                  trial.mutate({ params: { id: run.id }, body: { kind: 'trial', rows: tryable } })
                }
              >
                Trial of {count(tryable.length)}
              </Button>
            )}
          </>
        ) : (
          open?.agreementId && (
            <Button kind="quiet" onClick={() => void navigate(`/agreements/${open.agreementId}`)}>
              Open {open.number}
            </Button>
          )
        )}
      </div>
      <div className="min-h-0 flex-1 px-1">
        <Table
          label="Rows of the run"
          rows={listed}
          columns={shownColumns}
          idOf={(row) => String(row.row)}
          nameOf={(row) => `row ${row.row}, ${row.label}`}
          openId={shown === null ? undefined : String(shown)}
          onOpen={(row) => show(row.row)}
          selected={may ? selected : undefined}
          onSelect={may ? setSelected : undefined}
          maySelect={({ state }) => state !== 'made'}
        />
      </div>
    </div>
  )
}
