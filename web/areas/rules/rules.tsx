import { useMutation } from '@tanstack/react-query'
import { Plus } from 'lucide-react'
import { Link, useNavigate } from 'react-router'
import type { RuleTableContent } from '#contract/rule.ts'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { call, problemText, useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Hint } from '#web/parts/hint.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { type Column, Table } from '#web/parts/table.tsx'
import { UploadButton } from '#web/parts/upload-button.tsx'
import { When } from '#web/parts/signs/when.tsx'

type Summary = Answer<Api['rules']>[number]

const begun = (): RuleTableContent => ({
  name: 'New rules',
  scope: { kind: 'all' },
  hitPolicy: 'collect',
  missing: 'ask',
  otherwise: 'nothing',
  inputs: [],
  outputs: [{ key: 'approver' }],
  rows: [{ id: crypto.randomUUID().slice(0, 8), when: {}, then: {}, note: '' }],
  priorities: [],
  escalateTo: '',
})

/** Rule tables: what each is about, and whether it decides. */
export default function Rules() {
  const may = useMay('rules')
  const navigate = useNavigate()
  const say = useNotice()
  const rules = useAnswer('rules')
  const make = useCall('makeRuleTable', ({ id }) => void navigate(`/rules/${id}`))
  const bring = useMutation({
    mutationFn: (file: File) => call('importRuleTable', { query: { name: file.name }, body: file }),
    onSuccess: ({ id, report }) => {
      say(
        report.length
          ? `The table was read. ${report.join(' ')}`
          : 'The table was read as it stands, and is not in force yet.',
      )
      void navigate(`/rules/${id}`)
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  if (rules.isPending) return <Loading />
  if (rules.isError) return <Failed error={rules.error} retry={() => void rules.refetch()} />
  return (
    <div className="flex h-full flex-col">
      <div className="flex shrink-0 flex-wrap items-center gap-3 border-b border-hair px-4 py-2">
        <h1 className="text-xl">Rules</h1>
        <Hint topic="rules" />
        <span className="ml-auto flex items-center gap-4 text-sm">
          <Link to="/absences" className="text-petrol hover:underline">
            Absences
          </Link>
          {may && (
            <Link to="/rules/trail" className="text-petrol hover:underline">
              Trail of the installation
            </Link>
          )}
        </span>
        {may && (
          <>
            <UploadButton
              label="Decision model"
              accept=".dmn,.xml"
              busy={bring.isPending}
              onFiles={([file]) => bring.mutate(file)}
            >
              Bring in DMN
            </UploadButton>
            <Button
              kind="main"
              busy={make.isPending}
              onClick={() => make.mutate({ body: { draft: begun() } })}
            >
              <Plus size={14} /> New table
            </Button>
          </>
        )}
      </div>
      {rules.data.length === 0 ? (
        <Empty title="No rule table yet">
          Without one, every agreement is ready to send as soon as it is made.
        </Empty>
      ) : (
        <Table
          label="Rule tables"
          rows={rules.data}
          columns={COLUMNS}
          idOf={({ id }) => id}
          nameOf={({ name }) => name}
          onOpen={({ id }) => void navigate(`/rules/${id}`)}
        />
      )}
    </div>
  )
}

const COLUMNS: readonly Column<Summary>[] = [
  {
    id: 'name',
    header: 'Table',
    accessorKey: 'name',
    width: 'minmax(12rem,1.4fr)',
    cell: ({ row }) => <span className="font-semibold">{row.original.name || 'Without a name'}</span>,
  },
  { id: 'scope', header: 'About', accessorKey: 'scope', width: 'minmax(10rem,1fr)' },
  { id: 'rows', header: 'Rows', accessorKey: 'rows', width: '4rem', align: 'right' },
  { id: 'hit', header: 'Where several hold', accessorKey: 'hitPolicy', width: '10rem' },
  {
    id: 'state',
    header: 'Decides',
    accessorFn: ({ inForce, edition }) => (inForce ? (edition ?? 0) : -1),
    width: '14rem',
    cell: ({ row: { original } }) => <Decides table={original} />,
  },
  {
    id: 'changed',
    header: 'Changed',
    accessorKey: 'changedAt',
    width: '12rem',
    cell: ({ row: { original } }) => (
      <span className="text-soft">
        <When at={original.changedAt} /> by {original.changedBy}
      </span>
    ),
  },
]

function Decides({ table: { inForce, edition, draftDiffers } }: { readonly table: Summary }) {
  if (edition === null) return <span className="text-soft">not yet: a draft</span>
  return (
    <span className={inForce ? '' : 'text-soft'}>
      {inForce ? `edition ${edition}` : `out of force since edition ${edition}`}
      {inForce && draftDiffers && <span className="text-ochre">, draft changed</span>}
    </span>
  )
}
