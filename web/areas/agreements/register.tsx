import { NewAgreementLink } from '#web/areas/agreements/one/new-agreement-link.tsx'
import { useMutation } from '@tanstack/react-query'
import { type ReactNode, useRef, useState } from 'react'
import { useNavigate, useParams } from 'react-router'
import type { AgreementSummary } from '#contract/agreement.ts'
import { STATES, stateWord } from '#core/agreement/states.ts'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { useFilters, useSlash } from '#web/frame/use-filters.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Input } from '#web/parts/input.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { type Column, Table } from '#web/parts/table.tsx'
import { Thread } from '#web/parts/signs/thread.tsx'
import { count, plural, When } from '#web/parts/signs/when.tsx'
import { AgreementDetail } from './agreement-detail.tsx'
import { StateWord } from './state-word.tsx'
import { BegunMenu } from './one-off/begun.tsx'
import { StartOneOff } from './one-off/start-one-off.tsx'

const number: Column<AgreementSummary> = {
  id: 'number',
  accessorKey: 'number',
  header: 'Number',
  width: '116px',
}
const name: Column<AgreementSummary> = {
  id: 'name',
  accessorKey: 'name',
  header: 'Agreement',
  width: 'minmax(200px, 1fr)',
  cell: ({ row }) => <span title={row.original.name}>{row.original.name}</span>,
}
const thread: Column<AgreementSummary> = {
  id: 'thread',
  header: 'Progress',
  enableSorting: false,
  width: '116px',
  cell: ({ row }) => <Thread columns={row.original.thread} />,
}
const state: Column<AgreementSummary> = {
  id: 'state',
  accessorKey: 'state',
  header: 'State',
  width: '96px',
  cell: ({ row }) => <StateWord state={row.original.state} undelivered={row.original.undelivered} />,
}
const changed: Column<AgreementSummary> = {
  id: 'changedAt',
  accessorKey: 'changedAt',
  header: 'Changed',
  width: '104px',
  cell: ({ row }) => <When at={row.original.changedAt} />,
}

/** What is on the page, by the address. */
const queryOf = (search: URLSearchParams) => ({
  state: search.get('state') ?? undefined,
  run: search.get('run') ?? undefined,
  search: search.get('search') ?? undefined,
  limit: '10000',
})

/** All agreements; a detail opens beside the list. Filters stand in the address. */
export default function Register() {
  const { id } = useParams()
  const navigate = useNavigate()
  const maySend = useMay('send')
  const { search, to, clear } = useFilters()
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set())
  const query = queryOf(search)
  const register = useAnswer('agreements', { query }, { keep: true, every: 10_000 })
  const filter = (change: Record<string, string>) => {
    to(change)
    setSelected(new Set())
  }
  const openPath = (to: string) => void navigate({ pathname: `/agreements${to}`, search: search.toString() })
  return (
    <div className={`grid h-full ${id ? 'grid-cols-[minmax(0,1fr)_minmax(0,1.05fr)]' : 'grid-cols-1'}`}>
      <div className="flex min-h-0 flex-col">
        <Head query={query} total={register.data?.total ?? null} onFilter={filter}>
          <Doing selected={selected} agreements={register.data?.agreements ?? []} onSelect={setSelected} />
        </Head>
        {register.isPending ? (
          <Loading />
        ) : register.isError ? (
          <Failed error={register.error} retry={() => void register.refetch()} />
        ) : register.data.agreements.length === 0 ? (
          query.state || query.run || query.search ? (
            <Empty title="No agreement matches these filters">
              <button className="text-petrol underline" onClick={clear}>
                Show all
              </button>
            </Empty>
          ) : (
            <Empty title="No agreements yet">
              Agreements come from runs. Upload a sheet under Records and start a run.
            </Empty>
          )
        ) : (
          <div className="min-h-0 flex-1 px-2">
            <Table
              label="Agreements"
              rows={register.data.agreements}
              columns={id ? [number, name, thread] : [number, name, thread, state, changed]}
              idOf={(row) => row.id}
              nameOf={(row) => `${row.number}, ${row.name}`}
              openId={id}
              onOpen={(row) => openPath(`/${row.id}`)}
              selected={maySend ? selected : undefined}
              onSelect={maySend ? setSelected : undefined}
              maySelect={(row) => row.state === 'cleared'}
            />
          </div>
        )}
      </div>
      {id && <AgreementDetail key={id} id={id} onClose={() => openPath('')} />}
    </div>
  )
}

function Head({
  query,
  total,
  onFilter,
  children,
}: {
  readonly query: ReturnType<typeof queryOf>
  readonly total: number | null
  readonly onFilter: (change: Record<string, string>) => void
  /** What can be done with what is chosen. */
  readonly children: ReactNode
}) {
  const run = useAnswer('run', { params: { id: query.run ?? '' } }, { enabled: query.run !== undefined })
  const box = useRef<HTMLInputElement>(null)
  useSlash(box)
  return (
    <div className="flex shrink-0 flex-wrap items-center gap-3 px-4 pt-3 pb-2">
      <h1 className="text-xl">Agreements</h1>
      <span className="text-sm text-soft">{total === null ? '' : count(total)}</span>
      <Input
        ref={box}
        aria-label="Search agreements"
        placeholder="Search name or number  /"
        className="max-w-56"
        value={query.search ?? ''}
        onChange={(event) => onFilter({ search: event.target.value })}
        onKeyDown={(event) => event.key === 'Escape' && event.currentTarget.blur()}
      />
      <select
        aria-label="State"
        className="rounded-sm border border-hair bg-sheet px-2 py-1 text-sm"
        value={query.state ?? ''}
        onChange={(event) => onFilter({ state: event.target.value })}
      >
        <option value="">every state</option>
        {STATES.map((each) => (
          <option key={each} value={each}>
            {stateWord(each)}
          </option>
        ))}
      </select>
      {query.run && (
        <button
          className="rounded-sm bg-petrol-wash px-2 py-1 text-sm text-petrol"
          onClick={() => onFilter({ run: '' })}
        >
          from {run.data?.name ?? 'one run'} ×
        </button>
      )}
      {children}
    </div>
  )
}

/** What can be done: an agreement of a file begun, or those that are chosen set up and sent. */
function Doing({
  selected,
  agreements,
  onSelect,
}: {
  readonly selected: ReadonlySet<string>
  readonly agreements: readonly AgreementSummary[]
  readonly onSelect: (selected: ReadonlySet<string>) => void
}) {
  const navigate = useNavigate()
  const maySend = useMay('send')
  const mayMake = useMay('runs')
  const [asking, setAsking] = useState(false)
  if (selected.size === 0)
    return mayMake ? (
      <span className="ml-auto flex gap-2">
        <BegunMenu />
        <StartOneOff record={null}>Agreement from a file</StartOneOff>
        <NewAgreementLink main />
      </span>
    ) : null
  if (!maySend) return null
  return (
    <span className="ml-auto flex gap-3">
      <Button
        onClick={() =>
          void navigate('/agreements/send', { state: { agreements: [...selected].slice(0, 1000) } })
        }
      >
        Sending options
      </Button>
      <Button kind="main" onClick={() => setAsking(true)}>
        Send {plural(selected.size, 'agreement')}
      </Button>
      {asking && <SendDialog {...{ selected, agreements, onSelect }} onClose={() => setAsking(false)} />}
    </span>
  )
}

/** Asks before what cannot be called back; what nobody has read stays chosen: it can be read first, or sent all the same. */
function SendDialog({
  selected,
  agreements,
  onSelect,
  onClose,
}: {
  readonly selected: ReadonlySet<string>
  readonly agreements: readonly AgreementSummary[]
  readonly onSelect: (selected: ReadonlySet<string>) => void
  readonly onClose: () => void
}) {
  const say = useNotice()
  const [unread, setUnread] = useState(0)
  const send = useMutation({
    mutationFn: () => call('sendAgreements', { body: { agreements: [...selected], unread: unread > 0 } }),
    onSuccess: ({ sent, refused, unread: notRead }) => {
      const left = new Set(notRead > 0 ? refused.map(({ number }) => number) : [])
      if (sent) say(`${plural(sent, 'agreement')} sent.`)
      const [first] = refused
      if (first && refused.length > notRead)
        say(
          `${plural(refused.length - notRead, 'agreement')} not sent. ${first.number}: ${first.problem}`,
          'fault',
        )
      setUnread(notRead)
      if (notRead === 0) onClose()
      onSelect(new Set(agreements.filter(({ number }) => left.has(number)).map(({ id }) => id)))
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  return (
    <Dialog title={`Send ${plural(selected.size, 'agreement')} to sign`} open onClose={onClose}>
      <p>
        Each first signer gets an email with a personal link now; the next signer when the first has signed.
        An email that was sent cannot be recalled.
      </p>
      {unread > 0 && (
        <p role="alert" className="mt-3 border-l-2 border-ochre pl-3 text-ochre">
          The wording of {plural(unread, 'agreement')} is not marked as read. Mark it as read on the run’s
          page, or send unread; the trail records who did.
        </p>
      )}
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button kind={unread ? 'danger' : 'main'} busy={send.isPending} onClick={() => send.mutate()}>
          {unread ? 'Send unread' : 'Send'}
        </Button>
      </div>
    </Dialog>
  )
}
