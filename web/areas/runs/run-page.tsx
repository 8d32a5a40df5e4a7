import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { RunProgress, RunSummary } from '#contract/run.ts'
import { address, call, problemText, useAnswer } from '#web/frame/client.ts'
import { useNotice } from '#web/frame/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { ProofViewer } from '#web/parts/proof-viewer.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { RowProblems } from '#web/parts/row-problems.tsx'
import { Table } from '#web/parts/table.tsx'
import type { Column } from '#web/parts/table.tsx'
import { Tabs } from '#web/parts/tabs.tsx'
import { useBytes } from '#web/parts/use-bytes.ts'
import { count, duration, plural } from '#web/parts/when.tsx'
import { useProgress } from './use-progress.ts'

type Row = Answer<Api['runRows']>[number]
type Wording = Answer<Api['wordings']>[number]

const VIEWS = ['wordings', 'need a hand', 'all rows'] as const

export default function RunPage() {
  const { id = '' } = useParams()
  const run = useAnswer('run', { params: { id } })
  if (run.isPending) return <Loading />
  if (run.isError) return <Failed error={run.error} retry={() => void run.refetch()} />
  return <OpenRun key={id} run={run.data} />
}

function OpenRun({ run }: { readonly run: RunSummary }) {
  const progress = useProgress(run)
  const [search, setSearch] = useSearchParams()
  const view = VIEWS.find((each) => each === search.get('view')) ?? 'wordings'
  const checked = progress.state !== 'checking'
  const rows = useAnswer('runRows', { params: { id: run.id } }, { enabled: checked })
  const wordings = useAnswer('wordings', { params: { id: run.id } }, { enabled: checked })
  const hands = rows.data?.filter(({ state }) => state === 'needs a hand' || state === 'failed') ?? []
  const rowShown = Number(search.get('row')) || wordings.data?.[0]?.rows[0] || null
  const show = (row: number) =>
    setSearch({ ...Object.fromEntries(search), row: String(row) }, { replace: true })
  return (
    <div className="flex h-full flex-col">
      <Head run={run} progress={progress} />
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1.2fr)_minmax(0,1fr)]">
        <div className="flex min-h-0 flex-col">
          <div className="shrink-0 border-b border-hair px-3 py-1.5">
            <Tabs
              label="Views of the run"
              tabs={VIEWS}
              chosen={view}
              onChoose={(each) => setSearch({ ...Object.fromEntries(search), view: each }, { replace: true })}
              counts={{
                wordings: wordings.data?.length,
                'need a hand': hands.length,
                'all rows': rows.data?.length,
              }}
            />
          </div>
          {!checked || rows.isPending || wordings.isPending ? (
            <Loading label="The rows are being checked" />
          ) : rows.isError ? (
            <Failed error={rows.error} retry={() => void rows.refetch()} />
          ) : view === 'wordings' ? (
            <Wordings wordings={wordings.data ?? []} rows={rows.data} shown={rowShown} onShow={show} />
          ) : view === 'need a hand' ? (
            <Hands rows={hands} sheet={run.sheet} />
          ) : (
            <AllRows rows={rows.data} shown={rowShown} onShow={show} />
          )}
        </div>
        <RowProof
          runId={run.id}
          row={rowShown}
          label={rows.data?.find(({ row }) => row === rowShown)?.label ?? ''}
          ready={checked}
        />
      </div>
    </div>
  )
}

function Head({ run, progress }: { readonly run: RunSummary; readonly progress: RunProgress }) {
  const queries = useQueryClient()
  const say = useNotice()
  const may = useMay('runs')
  const renew = () => queries.invalidateQueries({ queryKey: ['run'] })
  const onError = (error: unknown) => say(problemText(error), 'fault')
  const generate = useMutation({
    mutationFn: () => call('generate', { params: { id: run.id } }),
    onSuccess: renew,
    onError,
  })
  const pause = useMutation({
    mutationFn: () => call('pauseRun', { params: { id: run.id } }),
    onSuccess: renew,
    onError,
  })
  const { rows, state } = progress
  const all = rows.ready + rows.made + rows.failed
  return (
    <div className="shrink-0 border-b border-hair px-4 py-2.5">
      <div className="flex items-center gap-4">
        <h1 className="truncate text-lg">{run.name}</h1>
        <span className="truncate text-sm text-soft">
          {run.template}, edition {run.edition}, from {run.sheet}
        </span>
        <span className="ml-auto flex items-center gap-2">
          {rows.made > 0 && (
            <>
              <Link to={`/agreements?run=${run.id}`} className="text-sm text-petrol underline">
                {plural(rows.made, 'agreement')}
              </Link>
              <a
                href={address('runArchive', { params: { id: run.id } })}
                download
                className="rounded-sm border border-hair bg-sheet px-3 py-1 text-sm font-semibold hover:border-soft"
              >
                ZIP of all
              </a>
            </>
          )}
          {may && state === 'generating' && (
            <Button busy={pause.isPending} onClick={() => pause.mutate()}>
              Pause
            </Button>
          )}
          {may &&
            (state === 'checked' || state === 'paused' || (state === 'generated' && rows.failed > 0)) &&
            rows.ready + rows.failed > 0 && (
              <Button kind="main" busy={generate.isPending} onClick={() => generate.mutate()}>
                {state === 'checked'
                  ? `Generate ${count(rows.ready)} agreements`
                  : state === 'paused'
                    ? `Go on with ${count(rows.ready)}`
                    : `Try ${count(rows.failed)} again`}
              </Button>
            )}
        </span>
      </div>
      {state === 'generating' || state === 'paused' ? (
        <div className="mt-2 flex items-center gap-3 text-sm">
          <div
            role="progressbar"
            aria-label="Agreements made"
            aria-valuemin={0}
            aria-valuemax={all}
            aria-valuenow={rows.made}
            className="h-1.5 flex-1 bg-wash"
          >
            <div
              className="h-full bg-petrol transition-[width] duration-150"
              style={{ width: `${all ? (100 * (rows.made + rows.failed)) / all : 0}%` }}
            />
          </div>
          <span className="whitespace-nowrap tabular-nums">
            {count(rows.made)} of {count(all)} made
            {rows.failed > 0 && <span className="text-brick">, {count(rows.failed)} failed</span>}
            {state === 'paused'
              ? ', paused'
              : progress.rate
                ? `, ${progress.rate.toFixed(1)} a second, ${duration(progress.secondsLeft ?? 0)} left`
                : ''}
          </span>
        </div>
      ) : (
        <p className="mt-0.5 text-sm text-soft" role="status">
          {state === 'checking'
            ? 'The rows are being checked …'
            : [
                rows.made && `${plural(rows.made, 'agreement')} made`,
                rows.ready && `${plural(rows.ready, 'row')} ready`,
                rows.hand && (rows.hand === 1 ? '1 row needs you' : `${count(rows.hand)} rows need you`),
                rows.failed && `${count(rows.failed)} failed`,
              ]
                .filter(Boolean)
                .join(', ')}
        </p>
      )}
    </div>
  )
}

/** What will these people get: a card for each wording, told by what sets it apart from the one most rows get. */
function Wordings({
  wordings,
  rows,
  shown,
  onShow,
}: {
  readonly wordings: readonly Wording[]
  readonly rows: readonly Row[]
  readonly shown: number | null
  readonly onShow: (row: number) => void
}) {
  if (wordings.length === 0) return <Empty title="No row is ready">All rows need a hand first.</Empty>
  const asked = new Set(rows.filter(({ approvals }) => approvals.length > 0).map(({ row }) => row))
  return (
    <ul className="grid min-h-0 flex-1 grid-cols-[repeat(auto-fill,minmax(15rem,1fr))] content-start overflow-auto">
      {wordings.map((wording) => {
        const approvals = wording.rows.filter((row) => asked.has(row)).length
        const open = shown !== null && wording.rows.includes(shown)
        return (
          <li key={wording.key} className="border-r border-b border-hair">
            <button
              className={`flex h-full w-full flex-col gap-1 px-4 py-3 text-left ${open ? 'bg-petrol-wash' : 'hover:bg-wash'}`}
              aria-pressed={open}
              onClick={() => onShow(wording.rows[0]!)}
            >
              <span className="flex items-baseline gap-2">
                <span className="font-serif text-2xl font-semibold tabular-nums">
                  {count(wording.rows.length)}
                </span>
                <span className="text-soft">
                  {wording.standard
                    ? 'the standard wording'
                    : wording.rows.length === 1
                      ? 'agreement'
                      : 'agreements'}
                </span>
              </span>
              {wording.added.map((title) => (
                <span key={title} className="text-sm">
                  <span className="text-soft">with</span> {title}
                </span>
              ))}
              {wording.left.map((title) => (
                <span key={title} className="text-sm">
                  <span className="text-soft">without</span> {title}
                </span>
              ))}
              {wording.standard && wording.kept.length === 0 && (
                <span className="text-sm text-soft">none of the passages with a condition</span>
              )}
              <span className="mt-auto truncate pt-1 text-xs text-soft">
                {approvals > 0 && `${approvals} to approve · `}proof of {wording.firstRowLabel}
              </span>
            </button>
          </li>
        )
      })}
    </ul>
  )
}

function Hands({ rows, sheet }: { readonly rows: readonly Row[]; readonly sheet: string }) {
  if (rows.length === 0) return <Empty title="No row needs a hand" />
  return (
    <ul tabIndex={0} aria-label="Rows that need a hand" className="min-h-0 flex-1 overflow-auto text-sm">
      {rows.map(({ row, label, problems, state }) => (
        <RowProblems key={row} row={row} label={label} problems={problems} failed={state === 'failed'} />
      ))}
      <li className="px-4 py-3 text-soft">
        These rows are left out and the others are made. Mend them in {sheet}, upload it again and start a run
        for them.
      </li>
    </ul>
  )
}

const columns: readonly Column<Row>[] = [
  { id: 'row', accessorKey: 'row', header: 'Row', width: '60px', align: 'right' },
  {
    id: 'label',
    accessorKey: 'label',
    header: 'For',
    width: 'minmax(160px, 1fr)',
    cell: ({ row }) => <span className="font-semibold">{row.original.label}</span>,
  },
  {
    id: 'state',
    accessorKey: 'state',
    header: 'State',
    width: '110px',
    cell: ({ row: { original } }) => (
      <span
        className={
          original.state === 'needs a hand' ? 'text-ochre' : original.state === 'failed' ? 'text-brick' : ''
        }
      >
        {original.state}
      </span>
    ),
  },
  {
    id: 'number',
    accessorKey: 'number',
    header: 'Number',
    width: '120px',
    cell: ({ row }) => row.original.number ?? '',
  },
  {
    id: 'approvals',
    accessorFn: (row) => row.approvals.length,
    header: 'Approval',
    width: '200px',
    cell: ({ row }) => row.original.approvals.map(({ approver }) => approver).join(', '),
  },
]

function AllRows({
  rows,
  shown,
  onShow,
}: {
  readonly rows: readonly Row[]
  readonly shown: number | null
  readonly onShow: (row: number) => void
}) {
  const navigate = useNavigate()
  return (
    <div className="min-h-0 flex-1">
      <Table
        label="Rows of the run"
        rows={rows}
        columns={columns}
        idOf={(row) => String(row.row)}
        openId={shown === null ? undefined : String(shown)}
        onOpen={(row) =>
          row.agreementId ? void navigate(`/agreements/${row.agreementId}`) : onShow(row.row)
        }
      />
    </div>
  )
}

function RowProof({
  runId,
  row,
  label,
  ready,
}: {
  readonly runId: string
  readonly row: number | null
  readonly label: string
  readonly ready: boolean
}) {
  const proof = useAnswer(
    'rowProof',
    { params: { id: runId, row: row ?? 0 } },
    { enabled: ready && row !== null, keep: true },
  )
  const bytes = useBytes(proof.data)
  return (
    <section aria-label="Proof" className="flex min-h-0 flex-col border-l border-hair">
      <p className="flex h-9 shrink-0 items-center gap-2 border-b border-hair px-3 text-sm">
        {row !== null && (
          <>
            <span className="text-soft">Proof of row {row}</span>
            <span className="truncate font-semibold">{label}</span>
          </>
        )}
      </p>
      {proof.isError && <Failed error={proof.error} retry={() => void proof.refetch()} />}
      <div className="min-h-0 flex-1">
        <ProofViewer bytes={bytes} label={`Proof of ${label}`} />
      </div>
    </section>
  )
}
