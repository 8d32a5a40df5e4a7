import { useMutation } from '@tanstack/react-query'
import { Upload } from 'lucide-react'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { type Column, Table } from '#web/parts/table.tsx'
import { UploadButton } from '#web/parts/upload-button.tsx'
import { count, fileSize, When } from '#web/parts/signs/when.tsx'

type Row = NonNullable<ReturnType<typeof useAnswer<'sheets'>>['data']>[number]

const LARGEST = 20 * 1024 * 1024

const columns: readonly Column<Row>[] = [
  {
    id: 'name',
    accessorKey: 'name',
    header: 'Sheet',
    width: 'minmax(260px, 1fr)',
    cell: ({ row }) => <span className="font-semibold">{row.original.name}</span>,
  },
  {
    id: 'rows',
    accessorKey: 'rowCount',
    header: 'Rows',
    width: '90px',
    align: 'right',
    cell: ({ row }) => count(row.original.rowCount),
  },
  {
    id: 'columns',
    accessorKey: 'columnCount',
    header: 'Columns',
    width: '90px',
    align: 'right',
    cell: ({ row }) => row.original.columnCount,
  },
  {
    id: 'at',
    accessorKey: 'uploadedAt',
    header: 'Uploaded',
    width: '130px',
    cell: ({ row }) => <When at={row.original.uploadedAt} />,
  },
  {
    id: 'by',
    accessorKey: 'uploadedBy',
    header: 'By',
    width: '160px',
    cell: ({ row }) => row.original.uploadedBy,
  },
]

/** All uploaded sheets. */
export function Sheets() {
  const navigate = useNavigate()
  const may = useMay('runs')
  const sheets = useAnswer('sheets')
  const [over, setOver] = useState(false)
  const upload = useMutation({
    mutationFn: async (file: File) => {
      // Told before anything is sent; the server has the same limit.
      if (file.size > LARGEST)
        throw new Error(
          `${file.name} has ${fileSize(file.size)}; 20 MB is the most. Leave out columns or rows that are not needed.`,
        )
      return call('uploadSheet', { query: { name: file.name }, body: file })
    },
    onSuccess: (sheet) => {
      void navigate(`/records/sheets/${sheet.id}`)
    },
  })
  if (sheets.isPending) return <Loading />
  if (sheets.isError) return <Failed error={sheets.error} retry={() => void sheets.refetch()} />
  const take = (file: File | undefined) => file && upload.mutate(file)
  return (
    <div
      className={`flex h-full flex-col ${over ? 'bg-petrol-wash' : ''}`}
      onDragOver={(event) => {
        event.preventDefault()
        setOver(may)
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault()
        setOver(false)
        if (may) take(event.dataTransfer.files[0])
      }}
    >
      <div className="flex items-center gap-4 px-4 py-2">
        <p className="text-sm text-soft">
          Tables for runs and records: CSV, XLSX, ODS, JSON. Drop one anywhere here.
        </p>
        {may && (
          <UploadButton
            kind="main"
            className="ml-auto"
            label="Sheet file"
            accept=".csv,.txt,.tsv,.xlsx,.ods,.json"
            busy={upload.isPending}
            onFiles={([file]) => take(file)}
          >
            <Upload size={14} /> Upload a sheet
          </UploadButton>
        )}
      </div>
      {upload.isError && (
        <div
          role="alert"
          className="mx-4 mb-3 flex items-start gap-4 border-l-2 border-brick bg-brick-wash px-4 py-2 text-sm"
        >
          <p>
            <span className="font-semibold">{upload.variables.name} was not uploaded.</span>{' '}
            {problemText(upload.error)}
          </p>
          <Button kind="quiet" className="ml-auto" onClick={() => upload.reset()}>
            Dismiss
          </Button>
        </div>
      )}
      {sheets.data.length === 0 ? (
        <Empty title="No sheets yet">
          Upload the table that your agreements are to be made from. The row with the column names is found by
          itself.
        </Empty>
      ) : (
        <div className="min-h-0 flex-1 px-2">
          <Table
            label="Sheets"
            rows={sheets.data}
            columns={columns}
            idOf={(row) => row.id}
            nameOf={(row) => row.name}
            onOpen={(row) => void navigate(`/records/sheets/${row.id}`)}
          />
        </div>
      )}
    </div>
  )
}
