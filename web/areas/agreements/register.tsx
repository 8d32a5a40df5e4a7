import { useMutation } from '@tanstack/react-query'
import { useRef, useState } from 'react'
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
  header: 'Thread',
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

/** All agreements; a detail opens beside the list. Filters stand in the address. */
export default function Register() {
  const { id } = useParams()
  const navigate = useNavigate()
  const say = useNotice()
  const maySend = useMay('send')
  const mayMake = useMay('runs')
  const { search, to, clear } = useFilters()
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set())
  const [asking, setAsking] = useState(false)
  const [unread, setUnread] = useState(0)
  const searchBox = useRef<HTMLInputElement>(null)
  const query = {
    state: search.get('state') ?? undefined,
    run: search.get('run') ?? undefined,
    search: search.get('search') ?? undefined,
    limit: '10000',
  }
  const register = useAnswer('agreements', { query }, { keep: true, every: 10_000 })
  const run = useAnswer('run', { params: { id: query.run ?? '' } }, { enabled: query.run !== undefined })
  useSlash(searchBox)
  const filter = (change: Record<string, string>) => {
    to(change)
    setSelected(new Set())
  }
  const send = useMutation({
    mutationFn: (unread: boolean) => call('sendAgreements', { body: { agreements: [...selected], unread } }),
    onSuccess: ({ sent, refused, unread: notRead }) => {
      // What nobody has read stays chosen: it can be read first, or sent all the same.
      const left = new Set(refused.map(({ number }) => number))
      setSelected(
        new Set(
          register.data?.agreements
            .filter(({ number }) => notRead > 0 && left.has(number))
            .map(({ id }) => id),
        ),
      )
      setUnread(notRead)
      setAsking(notRead > 0)
      if (sent) say(`${plural(sent, 'agreement')} sent.`)
      if (refused.length > notRead)
        say(
          `${plural(refused.length - notRead, 'agreement')} not sent. ${refused[0]!.number}: ${refused[0]!.problem}`,
          'fault',
        )
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  const filtered = query.state || query.run || query.search
  const openPath = (to: string) => void navigate({ pathname: `/agreements${to}`, search: search.toString() })
  return (
    <div className={`grid h-full ${id ? 'grid-cols-[minmax(0,1fr)_minmax(0,1.05fr)]' : 'grid-cols-1'}`}>
      <div className="flex min-h-0 flex-col">
        <div className="flex shrink-0 flex-wrap items-center gap-3 px-4 pt-3 pb-2">
          <h1 className="text-xl">Agreements</h1>
          <span className="text-sm text-soft">{register.data ? count(register.data.total) : ''}</span>
          <Input
            ref={searchBox}
            aria-label="Search agreements"
            placeholder="Search name or number  /"
            className="max-w-56"
            value={query.search ?? ''}
            onChange={(event) => filter({ search: event.target.value })}
            onKeyDown={(event) => event.key === 'Escape' && event.currentTarget.blur()}
          />
          <select
            aria-label="State"
            className="rounded-sm border border-hair bg-sheet px-2 py-1 text-sm"
            value={query.state ?? ''}
            onChange={(event) => filter({ state: event.target.value })}
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
              onClick={() => filter({ run: '' })}
            >
              from {run.data?.name ?? 'one run'} ×
            </button>
          )}
          {mayMake && selected.size === 0 && (
            <span className="ml-auto flex gap-2">
              <BegunMenu />
              <StartOneOff record={null}>From a file</StartOneOff>
            </span>
          )}
          {maySend && selected.size > 0 && (
            <Button
              className="ml-auto"
              onClick={() =>
                void navigate('/agreements/send', { state: { agreements: [...selected].slice(0, 1000) } })
              }
            >
              How they go out
            </Button>
          )}
          {maySend && selected.size > 0 && (
            <Button
              kind="main"
              onClick={() => {
                setUnread(0)
                setAsking(true)
              }}
            >
              Send {plural(selected.size, 'agreement')}
            </Button>
          )}
        </div>
        {register.isPending ? (
          <Loading />
        ) : register.isError ? (
          <Failed error={register.error} retry={() => void register.refetch()} />
        ) : register.data.agreements.length === 0 ? (
          <Empty title={filtered ? 'No agreement fits these filters' : 'No agreements yet'}>
            {filtered ? (
              <button className="text-petrol underline" onClick={clear}>
                Show all
              </button>
            ) : (
              'They come from runs: upload a sheet under Records and start one.'
            )}
          </Empty>
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
      <Dialog
        title={`Send ${plural(selected.size, 'agreement')} for signature`}
        open={asking}
        onClose={() => setAsking(false)}
      >
        <p>
          Each first signer gets a mail with a personal link now; the next one when the first has signed. A
          mail that has left cannot be called back.
        </p>
        {unread > 0 && (
          <p role="alert" className="mt-3 border-l-2 border-ochre pl-3 text-ochre">
            Nobody has read the wording of {plural(unread, 'agreement')}. Tick it as read on the run’s page,
            or send unread: the trail keeps who did.
          </p>
        )}
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={() => setAsking(false)}>Not now</Button>
          <Button
            kind={unread ? 'danger' : 'main'}
            busy={send.isPending}
            onClick={() => send.mutate(unread > 0)}
          >
            {unread ? 'Send unread' : 'Send'}
          </Button>
        </div>
      </Dialog>
    </div>
  )
}
