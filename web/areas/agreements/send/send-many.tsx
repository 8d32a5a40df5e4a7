import { useState } from 'react'
import { Link, useLocation, useNavigate, useSearchParams } from 'react-router'
import type { CommonSending } from '#contract/sending.ts'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { useQuery } from '@tanstack/react-query'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Hint } from '#web/parts/hint.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { plural, When } from '#web/parts/signs/when.tsx'
import { type Column, Table } from '#web/parts/table.tsx'
import { StateWord } from '../state-word.tsx'
import { CommonForm } from './common-form.tsx'
import { Go } from './go.tsx'

type Sheets = Answer<Api['sendingOfMany']>
type Row = Sheets['rows'][number]

/** How many agreements go out: what is set for all of them, and each that is doubtful or set otherwise. */
export default function SendMany() {
  const [search] = useSearchParams()
  const location = useLocation()
  const run = search.get('run') ?? undefined
  const chosen = (location.state as { readonly agreements?: readonly string[] } | null)?.agreements ?? []
  const ofRun = useAnswer(
    'agreements',
    { query: { run, state: 'cleared', limit: '1000' } },
    { enabled: run !== undefined },
  )
  if (run && ofRun.isPending) return <Loading />
  if (run && ofRun.isError) return <Failed error={ofRun.error} retry={() => void ofRun.refetch()} />
  const ids = run ? ofRun.data!.agreements.map(({ id }) => id) : chosen
  const back = run ? `/agreements?run=${run}` : '/agreements'
  if (ids.length === 0)
    return (
      <Empty title="Nothing here is ready to send">
        <Link className="text-petrol underline" to={back}>
          Back to the agreements
        </Link>
      </Empty>
    )
  return <Many ids={ids} back={back} />
}

const columns: readonly Column<Row>[] = [
  { id: 'number', accessorKey: 'number', header: 'Number', width: '108px' },
  {
    id: 'name',
    accessorKey: 'name',
    header: 'Agreement',
    width: 'minmax(230px, 1.2fr)',
    cell: ({ row }) => <span title={row.original.name}>{row.original.name}</span>,
  },
  {
    id: 'note',
    header: 'To look at',
    width: 'minmax(150px, 1fr)',
    accessorFn: ({ refusal, doubts, differs }) => (refusal ? 0 : doubts.length ? 1 : differs.length ? 2 : 3),
    cell: ({ row: { original } }) => <Note row={original} />,
  },
  {
    id: 'state',
    accessorKey: 'state',
    header: 'State',
    width: '104px',
    cell: ({ row: { original } }) =>
      original.goesAt ? (
        <>
          goes <When at={original.goesAt} />
        </>
      ) : (
        <StateWord state={original.state} />
      ),
  },
]

function Note({ row: { refusal, doubts, differs } }: { readonly row: Row }) {
  const [text, tone] = refusal
    ? [refusal, 'text-brick']
    : doubts.length
      ? [doubts.join(' '), 'text-ochre']
      : differs.length
        ? [`set by itself: ${differs.join(', ')}`, 'text-soft']
        : ['', '']
  return (
    <span className={tone} title={text}>
      {text}
    </span>
  )
}

function Many({ ids, back }: { readonly ids: readonly string[]; readonly back: string }) {
  const navigate = useNavigate()
  const say = useNotice()
  const sheets = useQuery({
    queryKey: ['sendingOfMany', ids],
    queryFn: ({ signal }) => call('sendingOfMany', { body: { agreements: ids }, signal }),
  })
  const [change, setChange] = useState<CommonSending>({})
  const [busy, setBusy] = useState(false)
  const [unread, setUnread] = useState(0)
  const [refused, setRefused] = useState<readonly { number: string; problem: string }[]>([])
  if (sheets.isPending) return <Loading />
  if (sheets.isError) return <Failed error={sheets.error} retry={() => void sheets.refetch()} />
  const { rows, notice } = sheets.data
  const ready = rows.filter(({ refusal }) => refusal === null)
  const changed = Object.keys(change).length > 0
  const set = async (): Promise<boolean> => {
    if (!changed) return true
    const answer = await call('setSendingOfMany', { body: { agreements: ids, common: change } })
    setRefused(answer.refused)
    if (answer.set) setChange({})
    await sheets.refetch()
    return answer.refused.length === 0
  }
  const doing = async (work: () => Promise<void>) => {
    setBusy(true)
    try {
      await work()
    } catch (error) {
      say(problemText(error), 'fault')
    } finally {
      setBusy(false)
    }
  }
  const keep = () =>
    doing(async () => {
      if (await set()) say(`Set for ${plural(ids.length, 'agreement')}.`)
    })
  const send = (at: string | null) =>
    doing(async () => {
      if (!(await set())) return
      const answer = await call('sendAgreements', {
        body: { agreements: ready.map(({ id }) => id), unread: unread > 0, at },
      })
      setRefused(answer.refused)
      setUnread(answer.unread)
      if (answer.sent)
        say(
          at
            ? `${plural(answer.sent, 'agreement')} set to go.`
            : `${plural(answer.sent, 'agreement')} ${notice ? 'delivered' : 'sent'}.`,
        )
      if (answer.refused.length === 0) void navigate(back)
      else await sheets.refetch()
    })
  return (
    <div className="flex h-full flex-col">
      <header className="flex shrink-0 items-center gap-3 border-b border-hair px-4 py-2.5">
        <div className="min-w-0">
          <h1 className="flex items-center gap-1 text-lg">
            Sending of {plural(rows.length, 'agreement')} <Hint topic="how it goes out" />
          </h1>
          <p className="text-sm text-soft">
            {plural(ready.length, 'agreement')} ready to send
            {rows.length > ready.length && `, ${rows.length - ready.length} not ready`}
          </p>
        </div>
        <span className="ml-auto" />
        <Button onClick={() => void navigate(back)}>Back</Button>
        <Button disabled={!changed || busy} onClick={() => void keep()}>
          Set for all
        </Button>
        <Go
          label={`${notice ? 'Deliver' : 'Send'} ${plural(ready.length, 'agreement')}`}
          unread={unread > 0}
          busy={busy}
          disabled={ready.length === 0}
          onGo={(at) => void send(at)}
        />
      </header>
      {unread > 0 && (
        <p role="alert" className="shrink-0 bg-ochre-wash px-4 py-1.5 text-sm text-ochre">
          The wording of {plural(unread, 'agreement')} is not marked as read. Mark it as read on the run’s
          page, or send unread; the trail records who did.
        </p>
      )}
      {refused.length > unread && (
        <p
          role="alert"
          className="max-h-24 shrink-0 overflow-auto bg-brick-wash px-4 py-1.5 text-sm text-brick"
        >
          {refused.slice(0, 20).map(({ number, problem }) => (
            <span key={number} className="block">
              {number}: {problem}
            </span>
          ))}
        </p>
      )}
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1.25fr)_minmax(0,1fr)]">
        <div className="min-h-0 px-2">
          <Table
            label="Agreements to send"
            rows={rows}
            columns={columns}
            idOf={(row) => row.id}
            nameOf={(row) => `${row.number}, ${row.name}`}
            onOpen={(row) => void navigate(`/agreements/${row.id}/send`)}
          />
        </div>
        <CommonForm sheets={sheets.data} change={change} onChange={setChange} />
      </div>
    </div>
  )
}
