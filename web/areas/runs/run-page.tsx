import { useMemo } from 'react'
import { useParams, useSearchParams } from 'react-router'
import type { RunSummary } from '#contract/run.ts'
import { useAnswer } from '#web/api/client.ts'
import { useMay } from '#web/frame/person.ts'
import { Failed, Loading } from '#web/parts/states.tsx'
import { Hint } from '#web/parts/hint.tsx'
import { Tabs } from '#web/parts/tabs.tsx'
import { AllRows } from './all-rows.tsx'
import { ChangedRows } from './changed-rows.tsx'
import { Hands } from './rows-to-fix.tsx'
import { Outputs } from './outputs.tsx'
import { RowProof } from './row-proof.tsx'
import { RunHead } from './run-head.tsx'
import { Effect } from './setup/effect.tsx'
import { RunSetup } from './setup/run-setup.tsx'
import { useProgress } from './open-run/use-progress.ts'
import { type OpenRun, RunContext } from './open-run/use-run.ts'
import { Wordings } from './wordings.tsx'

const VIEWS = ['set-up', 'wordings', 'need a hand', 'all rows', 'changed', 'files'] as const
type View = (typeof VIEWS)[number]

export default function RunPage() {
  const { id = '' } = useParams()
  const run = useAnswer('run', { params: { id } })
  if (run.isPending) return <Loading />
  if (run.isError) return <Failed error={run.error} retry={() => void run.refetch()} />
  return <OpenedRun key={id} run={run.data} readAt={run.dataUpdatedAt} />
}

function OpenedRun({ run, readAt }: { readonly run: RunSummary; readonly readAt: number }) {
  const progress = useProgress(run, readAt)
  const may = useMay('runs')
  const [search, setSearch] = useSearchParams()
  const view = VIEWS.find((each) => each === search.get('view')) ?? 'wordings'
  const checked = progress.state !== 'checking'
  const of = { params: { id: run.id } }
  const rows = useAnswer('runRows', of, { enabled: checked, keep: true })
  const wordings = useAnswer('wordings', of, { enabled: checked, keep: true })
  const setup = useAnswer('runSetup', of, { keep: true })
  const asked = Number(search.get('row'))
  const row = asked || (wordings.data?.[0]?.typical.row ?? null)
  const open = useMemo<OpenRun>(
    () => ({
      run,
      progress,
      may,
      row,
      rows: rows.data ?? [],
      wordings: wordings.data ?? [],
      setup: setup.data ?? null,
      show: (next) =>
        setSearch((before) => ({ ...Object.fromEntries(before), row: String(next) }), { replace: true }),
    }),
    [run, progress, may, row, rows.data, wordings.data, setup.data, setSearch],
  )
  const hands = open.rows.filter(({ state }) => state === 'needs a hand' || state === 'failed').length
  const changed = open.rows.filter((each) => each.changed).length
  return (
    <RunContext.Provider value={open}>
      <div className="flex h-full flex-col">
        <RunHead />
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1.2fr)_minmax(0,1fr)]">
          <div className="flex min-h-0 flex-col">
            <div className="flex shrink-0 items-center gap-2 border-b border-hair px-3 py-1.5">
              <Tabs
                label="Views of the run"
                tabs={VIEWS.filter((each) => each !== 'changed' || changed > 0 || view === 'changed')}
                chosen={view}
                onChoose={(each) =>
                  setSearch({ ...Object.fromEntries(search), view: each }, { replace: true })
                }
                counts={{
                  wordings: wordings.data?.length,
                  'need a hand': hands,
                  'all rows': rows.data?.length,
                  changed,
                }}
              />
              <Hint topic={view} key={view} />
            </div>
            {rows.isError ? (
              <Failed error={rows.error} retry={() => void rows.refetch()} />
            ) : rows.data && wordings.data ? (
              <ViewOf view={view} />
            ) : (
              <Loading label="The rows are being checked" />
            )}
          </div>
          {view === 'set-up' ? <Effect /> : <RowProof />}
        </div>
      </div>
    </RunContext.Provider>
  )
}

function ViewOf({ view }: { readonly view: View }) {
  switch (view) {
    case 'set-up':
      return <RunSetup />
    case 'wordings':
      return <Wordings />
    case 'need a hand':
      return <Hands />
    case 'all rows':
      return <AllRows />
    case 'changed':
      return <ChangedRows />
    case 'files':
      return <Outputs />
  }
}
