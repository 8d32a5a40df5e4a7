import { useNavigate } from 'react-router'
import { useAnswer } from '#web/frame/client.ts'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { Table } from '#web/parts/table.tsx'
import type { Column } from '#web/parts/table.tsx'
import { When, count } from '#web/parts/when.tsx'

type Row = NonNullable<ReturnType<typeof useAnswer<'templates'>>['data']>[number]

const columns: readonly Column<Row>[] = [
  {
    id: 'name',
    accessorKey: 'name',
    header: 'Template',
    width: 'minmax(260px, 1fr)',
    cell: ({ row }) => <span className="font-semibold">{row.original.name}</span>,
  },
  {
    id: 'edition',
    accessorKey: 'latestEdition',
    header: 'Edition',
    width: '170px',
    cell: ({ row: { original } }) =>
      original.latestEdition
        ? `${original.latestEdition}${original.draftDiffers ? ', draft differs' : ''}`
        : 'not published',
  },
  {
    id: 'agreements',
    accessorKey: 'agreements',
    header: 'Agreements',
    width: '110px',
    align: 'right',
    cell: ({ row }) => count(row.original.agreements),
  },
  {
    id: 'changedAt',
    accessorKey: 'changedAt',
    header: 'Changed',
    width: '130px',
    cell: ({ row }) => <When at={row.original.changedAt} />,
  },
  {
    id: 'changedBy',
    accessorKey: 'changedBy',
    header: 'By',
    width: '160px',
    cell: ({ row }) => row.original.changedBy,
  },
]

export default function Templates() {
  const navigate = useNavigate()
  const templates = useAnswer('templates')
  if (templates.isPending) return <Loading />
  if (templates.isError) return <Failed error={templates.error} retry={() => void templates.refetch()} />
  return (
    <div className="flex h-full flex-col">
      <div className="px-4 pt-4 pb-3">
        <h1 className="text-xl">Templates</h1>
      </div>
      {templates.data.length === 0 ? (
        <Empty title="No templates yet">
          A template is the standing wording of an agreement with the data it needs and the roles that sign
          it.
        </Empty>
      ) : (
        <div className="min-h-0 flex-1 px-2">
          <Table
            label="Templates"
            rows={templates.data}
            columns={columns}
            idOf={(row) => row.id}
            onOpen={(row) => void navigate(`/templates/${row.id}`)}
          />
        </div>
      )}
    </div>
  )
}
