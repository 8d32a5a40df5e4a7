import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { useNavigate, useParams, useSearchParams } from 'react-router'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { call, problemText, useAnswer } from '#web/frame/client.ts'
import { useNotice } from '#web/frame/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Input } from '#web/parts/input.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { RowProblems } from '#web/parts/row-problems.tsx'
import { Table } from '#web/parts/table.tsx'
import type { Column } from '#web/parts/table.tsx'
import { Tabs } from '#web/parts/tabs.tsx'
import { count, plural } from '#web/parts/when.tsx'

type Sheet = Answer<Api['sheet']>
type Mapping = Answer<Api['mapping']>

export default function SheetPage() {
  const { id = '' } = useParams()
  const [search, setSearch] = useSearchParams()
  const sheet = useAnswer('sheet', { params: { id } })
  const templates = useAnswer('templates', { query: { sheet: id } })
  const templateId = search.get('template') ?? templates.data?.[0]?.id ?? ''
  const view = search.get('view') === 'rows' ? 'rows' : 'mapping'
  const template = useAnswer('template', { params: { id: templateId } }, { enabled: templateId !== '' })
  const mapping = useAnswer(
    'mapping',
    { params: { id, template: templateId } },
    { enabled: templateId !== '' },
  )
  if (sheet.isPending || templates.isPending) return <Loading />
  if (sheet.isError) return <Failed error={sheet.error} retry={() => void sheet.refetch()} />
  const to = (change: Record<string, string>) =>
    setSearch({ ...Object.fromEntries(search), ...change }, { replace: true })
  return (
    <div className="flex h-full flex-col">
      <div className="flex shrink-0 items-center gap-4 border-b border-hair px-4 py-2.5">
        <h1 className="truncate text-lg">{sheet.data.name}</h1>
        <span className="text-sm text-soft">
          {plural(sheet.data.rowCount, 'row')}, column names in row {sheet.data.headerRow}
        </span>
        <Tabs
          label="Parts of the sheet"
          tabs={['mapping', 'rows']}
          chosen={view}
          onChoose={(each) => to({ view: each })}
        />
        <label className="ml-auto flex items-center gap-2 text-sm text-soft">
          for
          <select
            className="border border-hair bg-sheet px-2 py-1 text-ink"
            value={templateId}
            onChange={(event) => to({ template: event.target.value })}
          >
            {templates.data?.map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
          </select>
        </label>
      </div>
      {view === 'rows' ? (
        <SheetRows sheet={sheet.data} />
      ) : mapping.isError ? (
        <Failed error={mapping.error} retry={() => void mapping.refetch()} />
      ) : mapping.data && template.data ? (
        <MappingView
          sheet={sheet.data}
          templateId={templateId}
          content={template.data.draft}
          mapping={mapping.data}
        />
      ) : (
        <Loading />
      )}
    </div>
  )
}

function MappingView({
  sheet,
  templateId,
  content,
  mapping,
}: {
  readonly sheet: Sheet
  readonly templateId: string
  readonly content: TemplateContent
  readonly mapping: Mapping
}) {
  const queries = useQueryClient()
  const navigate = useNavigate()
  const say = useNotice()
  const may = useMay('runs')
  const key = ['mapping', { id: sheet.id, template: templateId }, null]
  const save = useMutation({
    mutationFn: (columns: Record<string, string>) =>
      call('saveMapping', { params: { id: sheet.id, template: templateId }, body: { columns } }),
    onSuccess: (saved) => queries.setQueryData(key, saved),
    onError: (error) => say(problemText(error), 'fault'),
  })
  const [name, setName] = useState(() => sheet.name.replace(/\.\w+$/, ''))
  const start = useMutation({
    mutationFn: () => call('startRun', { body: { name, templateId, sheetId: sheet.id } }),
    onSuccess: ({ id }) => navigate(`/runs/${id}`),
    onError: (error) => say(problemText(error), 'fault'),
  })
  const set = (field: string, column: string) => {
    const { [field]: _, ...rest } = mapping.columns
    save.mutate(column ? { ...rest, [field]: column } : rest)
  }
  const fields = content.outline.filter(({ computed }) => computed === undefined)
  const unmapped = fields.filter((field) => field.required && !mapping.columns[field.name])
  const hands = mapping.rowsWithProblems.length
  // A field without a column is told once above, not in every row.
  const rowsOfTheirOwn = mapping.rowsWithProblems
    .map((row) => ({ ...row, problems: row.problems.filter(({ column }) => column !== null) }))
    .filter(({ problems }) => problems.length > 0)
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1.1fr)_minmax(0,1fr)]">
      <section aria-label="Mapping" className="min-h-0 overflow-auto px-4 py-3">
        <p className="mb-2 text-sm text-soft">
          {mapping.saved
            ? 'This mapping is saved for this sheet and template.'
            : 'Suggested from names and values. Look it over; what you change is saved at once.'}
        </p>
        <table className="w-full text-sm">
          <thead className="text-left text-xs text-soft">
            <tr className="border-b border-hair">
              <th className="py-1 font-normal">Field</th>
              <th className="font-normal">Column</th>
              <th className="font-normal">What the column holds</th>
            </tr>
          </thead>
          <tbody>
            {fields.map((field) => {
              const column = sheet.columns.find((each) => each.name === mapping.columns[field.name])
              const fault = mapping.faults.find((each) => each.field === field.name)
              const missing = field.required && !column
              return (
                <tr key={field.name} className="border-b border-hair/60">
                  <td className="py-1 pr-2">
                    {field.label} <span className="text-xs text-soft">{field.type}</span>
                  </td>
                  <td className="w-44 pr-2">
                    <select
                      aria-label={`Column for ${field.label}`}
                      aria-invalid={missing || fault !== undefined}
                      disabled={!may}
                      className="w-full rounded-sm border border-hair bg-sheet px-1 py-0.5 aria-invalid:border-brick"
                      value={column?.name ?? ''}
                      onChange={(event) => set(field.name, event.target.value)}
                    >
                      <option value="">{field.required ? 'none: choose one' : 'none'}</option>
                      {sheet.columns.map((each) => (
                        <option key={each.name} value={each.name}>
                          {each.name}
                        </option>
                      ))}
                    </select>
                  </td>
                  <td
                    className={`max-w-0 truncate text-xs ${fault || missing ? 'text-brick' : 'text-soft'}`}
                    title={fault?.message}
                  >
                    {fault?.message ??
                      (missing
                        ? 'Every row will need this value'
                        : column
                          ? `${evidence(column)}, such as ${column.samples.slice(0, 2).join(' · ')}`
                          : 'not given')}
                  </td>
                </tr>
              )
            })}
          </tbody>
        </table>
      </section>
      <section aria-label="What this gives" className="flex min-h-0 flex-col border-l border-hair">
        <div className="border-b border-hair px-4 py-3">
          <p className="font-serif text-lg font-semibold">
            {plural(mapping.rowCount - hands, 'row')} ready,{' '}
            {hands === 0
              ? 'none needs you'
              : hands === 1
                ? '1 row needs you'
                : `${count(hands)} rows need you`}
          </p>
          {unmapped.length > 0 && (
            <p className="mt-1 text-sm text-brick">
              No column gives {unmapped.map(({ label }) => `“${label}”`).join(', ')}.
            </p>
          )}
          {may && (
            <form
              className="mt-3 flex gap-2"
              onSubmit={(event) => {
                event.preventDefault()
                start.mutate()
              }}
            >
              <Input
                aria-label="Name of the run"
                value={name}
                maxLength={200}
                onChange={(event) => setName(event.target.value)}
              />
              <Button
                kind="main"
                type="submit"
                busy={start.isPending}
                disabled={!name.trim() || mapping.faults.length > 0}
              >
                Start a run
              </Button>
            </form>
          )}
        </div>
        <ul tabIndex={0} className="min-h-0 flex-1 overflow-auto text-sm" aria-label="Rows that need a hand">
          {rowsOfTheirOwn.slice(0, 300).map((row) => (
            <RowProblems key={row.row} {...row} />
          ))}
        </ul>
      </section>
    </div>
  )
}

/** "238 dates, 2 not: rows 17, 203" */
function evidence(column: Sheet['columns'][number]): string {
  if (column.type === 'empty') return 'empty'
  const noun = {
    text: 'texts',
    number: 'numbers',
    percent: 'percentages',
    date: 'dates',
    'yes/no': 'yes or no',
    email: 'mail addresses',
  }[column.type]
  const odd = column.filled - column.fitting
  return `${count(column.fitting)} ${noun}${odd ? `, ${odd} not` : ''}`
}

interface TextRow {
  readonly row: number
  readonly cells: readonly string[]
}

function SheetRows({ sheet }: { readonly sheet: Sheet }) {
  const rows = useAnswer('sheetRows', { params: { id: sheet.id }, query: { limit: '1000' } })
  const columns = useMemo<readonly Column<TextRow>[]>(
    () => [
      { id: 'row', accessorKey: 'row', header: 'Row', width: '60px', align: 'right' },
      ...sheet.columns.map((column, i): Column<TextRow> => ({
        id: `c${i}`,
        accessorFn: (row) => row.cells[i] ?? '',
        header: column.name,
        width: column.type === 'number' || column.type === 'yes/no' ? '90px' : '150px',
        ...(column.type === 'number' ? { align: 'right' as const } : {}),
      })),
    ],
    [sheet.columns],
  )
  if (rows.isPending) return <Loading />
  if (rows.isError) return <Failed error={rows.error} retry={() => void rows.refetch()} />
  return (
    <div className="min-h-0 flex-1 px-2">
      <Table
        label="Rows of the sheet"
        rows={rows.data.rows}
        columns={columns}
        idOf={(row) => String(row.row)}
      />
    </div>
  )
}
