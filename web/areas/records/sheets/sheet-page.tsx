import { useMutation } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { useParams } from 'react-router'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useActs } from '#web/frame/commands.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { useFilters } from '#web/frame/use-filters.ts'
import { Hint } from '#web/parts/hint.tsx'
import { Button } from '#web/parts/button.tsx'
import { Input } from '#web/parts/input.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { ImportForm } from './import-form.tsx'
import { SheetGrid } from './sheet-grid.tsx'
import type { Sheet } from './grid.ts'
import { SheetReading } from './sheet-reading.tsx'
import { StartRun } from './start-run.tsx'

export default function SheetPage() {
  const { id = '' } = useParams()
  const sheet = useAnswer('sheet', { params: { id } })
  if (sheet.isPending) return <Loading />
  if (sheet.isError) return <Failed error={sheet.error} retry={() => void sheet.refetch()} />
  return <OpenSheet key={id} sheet={sheet.data} />
}

/** A sheet as it was read: its rows, what is wrong with them, and what can be made of it. */
function OpenSheet({ sheet }: { readonly sheet: Sheet }) {
  const say = useNotice()
  const may = useMay('runs')
  const { search, to } = useFilters()
  const [open, setOpen] = useState<'reading' | 'run' | 'import' | null>(
    // What could not be decided is asked at once.
    sheet.reading && sheet.headerRow === 0 ? 'reading' : null,
  )
  const mend = useMutation({
    mutationFn: ({ row, column, value }: { row: number; column: string; value: string | null }) =>
      call('mendCells', { params: { id: sheet.id }, body: { cells: [{ row, column, value }] } }),
    onError: (error) => say(problemText(error), 'fault'),
  })
  const filter = { search: search.get('search') ?? '', odd: search.get('odd') === 'yes' }
  const odd = sheet.columns.reduce((sum, { filled, fitting }) => sum + filled - fitting, 0)
  const toggle = (which: typeof open) => setOpen(open === which ? null : which)
  const reading = sheet.reading !== null
  const acts = useMemo(
    () =>
      may
        ? [
            { label: 'Set up a run from this sheet', hint: 'This sheet', run: () => setOpen('run') },
            { label: 'Import to records', hint: 'This sheet', run: () => setOpen('import') },
            ...(reading
              ? [{ label: 'Read it another way', hint: 'This sheet', run: () => setOpen('reading') }]
              : []),
          ]
        : [],
    [may, reading],
  )
  useActs(acts)
  return (
    <div className="flex h-full flex-col">
      <div className="flex shrink-0 flex-wrap items-center gap-3 px-4 py-2.5">
        <h1 className="truncate text-lg">{sheet.name}</h1>
        <span className="text-sm text-soft">
          {plural(sheet.rowCount, 'row')}, {plural(sheet.columns.length, 'column')}
          {sheet.mended > 0 && `, ${plural(sheet.mended, 'cell')} fixed`}
        </span>
        <Input
          aria-label="Search the sheet"
          placeholder="Search"
          className="max-w-40"
          value={filter.search}
          onChange={(event) => to({ search: event.target.value })}
        />
        {(odd > 0 || filter.odd) && (
          <label className="flex items-center gap-1.5 text-sm">
            <input
              type="checkbox"
              checked={filter.odd}
              onChange={(event) => to({ odd: event.target.checked ? 'yes' : '' })}
            />
            only {plural(odd, 'cell')} unlike their column
          </label>
        )}
        <Hint topic="sheet" />
        {may && (
          <span className="ml-auto flex gap-2">
            {sheet.reading && (
              <Button aria-expanded={open === 'reading'} onClick={() => toggle('reading')}>
                Read another way
              </Button>
            )}
            <Button aria-expanded={open === 'import'} onClick={() => toggle('import')}>
              Import to records
            </Button>
            <Button kind="main" aria-expanded={open === 'run'} onClick={() => toggle('run')}>
              Set up a run
            </Button>
          </span>
        )}
      </div>
      {open === 'reading' && <SheetReading sheet={sheet} onDone={() => setOpen(null)} />}
      {open === 'run' && <StartRun sheetId={sheet.id} name={sheet.name} />}
      {open === 'import' && <ImportForm sheet={sheet} onDone={() => setOpen(null)} />}
      {sheet.notes.map((note) => (
        <p key={note} className="shrink-0 border-l-2 border-ochre px-4 py-1 text-sm">
          {note}
        </p>
      ))}
      <SheetGrid
        key={`${filter.search}${filter.odd}`}
        sheet={sheet}
        filter={filter}
        editable={may && sheet.kind !== 'records'}
        onMend={(row, column, value) => mend.mutate({ row, column, value })}
      />
    </div>
  )
}
