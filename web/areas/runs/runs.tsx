import { Link, useNavigate } from 'react-router'
import type { RunSummary } from '#contract/run.ts'
import { useAnswer } from '#web/api/client.ts'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { type Column, Table } from '#web/parts/table.tsx'
import { count, When } from '#web/parts/signs/when.tsx'

const columns: readonly Column<RunSummary>[] = [
  {
    id: 'name',
    accessorKey: 'name',
    header: 'Run',
    width: 'minmax(200px, 1fr)',
    cell: ({ row }) => <span className="font-semibold">{row.original.name}</span>,
  },
  {
    id: 'template',
    accessorKey: 'template',
    header: 'Template',
    width: '240px',
    cell: ({ row: { original } }) =>
      original.packet.length
        ? `packet of ${original.packet.length}, first ${original.packet[0]}`
        : `${original.template}, edition ${original.edition}`,
  },
  {
    id: 'state',
    accessorKey: 'state',
    header: 'State',
    width: '110px',
    cell: ({ row }) => row.original.state,
  },
  {
    id: 'made',
    accessorFn: (row) => row.rows.made,
    header: 'Made',
    width: '80px',
    align: 'right',
    cell: ({ row }) => count(row.original.rows.made),
  },
  {
    id: 'hand',
    accessorFn: (row) => row.rows.hand + row.rows.failed,
    header: 'Need you',
    width: '90px',
    align: 'right',
    cell: ({ row: { original } }) => (
      <span className={original.rows.hand + original.rows.failed ? 'font-semibold text-ochre' : ''}>
        {count(original.rows.hand + original.rows.failed)}
      </span>
    ),
  },
  {
    id: 'at',
    accessorKey: 'createdAt',
    header: 'Set up',
    width: '120px',
    cell: ({ row }) => <When at={row.original.createdAt} />,
  },
  {
    id: 'by',
    accessorKey: 'createdBy',
    header: 'By',
    width: '140px',
    cell: ({ row }) => row.original.createdBy,
  },
]

export default function Runs() {
  const navigate = useNavigate()
  const runs = useAnswer('runs')
  if (runs.isPending) return <Loading />
  if (runs.isError) return <Failed error={runs.error} retry={() => void runs.refetch()} />
  return (
    <div className="flex h-full flex-col">
      <div className="px-4 pt-4 pb-3">
        <h1 className="text-xl">Runs</h1>
      </div>
      {runs.data.length === 0 ? (
        <Empty title="No runs yet">
          A run makes an agreement from each row of a sheet. Begin with{' '}
          <Link className="text-petrol underline" to="/records">
            the sheet
          </Link>
          .
        </Empty>
      ) : (
        <div className="min-h-0 flex-1 px-2">
          <Table
            label="Runs"
            rows={runs.data}
            columns={columns}
            idOf={(row) => row.id}
            nameOf={(row) => row.name}
            onOpen={(row) => void navigate(`/runs/${row.id}`)}
          />
        </div>
      )}
    </div>
  )
}
