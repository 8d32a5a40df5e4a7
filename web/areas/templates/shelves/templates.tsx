import { useMutation } from '@tanstack/react-query'
import { FileUp, ClipboardPen, Layers, Library, Plus, Settings2 } from 'lucide-react'
import { useMemo, useState } from 'react'
import { Link, useNavigate, useSearchParams } from 'react-router'
import * as v from 'valibot'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { type Act, useActs } from '#web/frame/commands.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { filled, orNone } from '#web/parts/form/entries.ts'
import { SelectField, TextField } from '#web/parts/form/fields.tsx'
import { Form } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import { Input } from '#web/parts/input.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { type Column, Table } from '#web/parts/table.tsx'
import { UploadButton } from '#web/parts/upload-button.tsx'
import { When, count } from '#web/parts/signs/when.tsx'
import { ShelfForm } from './shelf-form.tsx'
import { StartForm } from './start-form.tsx'

type Row = NonNullable<ReturnType<typeof useAnswer<'templates'>>['data']>[number]
type Shelf = NonNullable<ReturnType<typeof useAnswer<'shelves'>>['data']>[number]

const NONE = 'none'

const columnsWith = (shelfName: (id: string | null) => string): readonly Column<Row>[] => [
  {
    id: 'name',
    accessorKey: 'name',
    header: 'Template',
    width: 'minmax(260px, 1fr)',
    cell: ({ row }) => <span className="font-semibold">{row.original.name}</span>,
  },
  {
    id: 'shelf',
    accessorFn: ({ shelf }) => shelfName(shelf),
    header: 'Shelf',
    width: '150px',
    cell: ({ row }) => shelfName(row.original.shelf),
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
    id: 'may',
    accessorFn: ({ may }) => Number(may.publish) + Number(may.edit),
    header: 'You may',
    width: '130px',
    cell: ({ row: { original } }) =>
      original.may.publish ? 'edit, publish' : original.may.edit ? 'edit' : original.may.use ? 'use' : 'read',
  },
  {
    id: 'changedAt',
    accessorKey: 'changedAt',
    header: 'Changed',
    width: '120px',
    cell: ({ row }) => <When at={row.original.changedAt} />,
  },
  {
    id: 'changedBy',
    accessorKey: 'changedBy',
    header: 'By',
    width: '130px',
    cell: ({ row }) => row.original.changedBy,
  },
]

const NO_ACTS: readonly Act[] = []

/** All templates one may look at, by shelves; new ones begin here, empty, as a copy, or from a document. */
export default function Templates() {
  const navigate = useNavigate()
  const writer = useMay('templates')
  const templates = useAnswer('templates')
  const shelves = useAnswer('shelves')
  const [search, setSearch] = useSearchParams()
  const [text, setText] = useState('')
  const [starting, setStarting] = useState(search.get('new') !== null)
  const starts = useMemo(
    () => [{ label: 'New template', hint: 'Templates', run: () => setStarting(true) }],
    [],
  )
  const [shelf, setShelf] = useState<Shelf | 'new' | null>(null)
  const chosen = search.get('shelf')
  const columns = useMemo(
    () => columnsWith((id) => shelves.data?.find((each) => each.id === id)?.name ?? ''),
    [shelves.data],
  )
  useActs(writer ? starts : NO_ACTS)
  if (templates.isPending) return <Loading />
  if (templates.isError) return <Failed error={templates.error} retry={() => void templates.refetch()} />
  const rows = templates.data.filter(
    (row) =>
      (chosen === null || (row.shelf ?? NONE) === chosen) &&
      row.name.toLowerCase().includes(text.toLowerCase()),
  )
  const shown = shelves.data?.find(({ id }) => id === chosen)
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-3 px-4 pt-4 pb-3">
        <h1 className="text-xl">Templates</h1>
        <Input
          aria-label="Search templates"
          placeholder="Search"
          className="max-w-52"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <Link
          to="/templates/library"
          className="flex items-center gap-1.5 text-sm text-petrol hover:underline"
        >
          <Library size={14} /> Clause library
        </Link>
        <Link
          to="/templates/packets"
          className="flex items-center gap-1.5 text-sm text-petrol hover:underline"
        >
          <Layers size={14} /> Packets
        </Link>
        <Link
          to="/templates/intakes"
          className="flex items-center gap-1.5 text-sm text-petrol hover:underline"
        >
          <ClipboardPen size={14} /> Intake forms
        </Link>
        {writer && (
          <span className="ml-auto flex flex-wrap justify-end gap-2">
            <StartForm shelf={chosen !== NONE ? chosen : null} />
            <Import shelf={chosen !== NONE ? chosen : null} />
            <Button kind="main" onClick={() => setStarting(true)}>
              <Plus size={14} /> New template
            </Button>
          </span>
        )}
      </div>
      <nav aria-label="Shelves" className="flex flex-wrap items-center gap-1 px-4 pb-2 text-sm">
        {[{ id: null, name: 'All' }, ...(shelves.data ?? []), { id: NONE, name: 'On no shelf' }].map(
          ({ id, name }) => (
            <button
              key={id ?? 'all'}
              aria-pressed={chosen === id}
              className={`rounded-sm px-2 py-0.5 ${chosen === id ? 'bg-petrol-wash font-semibold text-petrol' : 'text-soft hover:text-ink'}`}
              onClick={() => setSearch(id === null ? {} : { shelf: id }, { replace: true })}
            >
              {name}
            </button>
          ),
        )}
        {writer && shown && (
          <Button kind="quiet" onClick={() => setShelf(shown)}>
            <Settings2 size={13} /> Rights
          </Button>
        )}
        {writer && (
          <Button kind="quiet" onClick={() => setShelf('new')}>
            <Plus size={13} /> Shelf
          </Button>
        )}
      </nav>
      {rows.length === 0 ? (
        <Empty title={text || chosen ? 'No template here' : 'No templates yet'}>
          {text || chosen
            ? 'Nothing on this shelf has that name.'
            : 'A template is the standing wording of an agreement with the data it needs and the roles that sign it. Start an empty one, bring in a DOCX document, or make a form of pages you have.'}
        </Empty>
      ) : (
        <div className="min-h-0 flex-1 px-2">
          <Table
            label="Templates"
            rows={rows}
            columns={columns}
            idOf={(row) => row.id}
            nameOf={(row) => row.name}
            onOpen={(row) => void navigate(`/templates/${row.id}`)}
          />
        </div>
      )}
      <Dialog title="New template" open={starting} onClose={() => setStarting(false)}>
        <Start
          templates={templates.data}
          shelves={shelves.data ?? []}
          shelf={chosen !== NONE ? chosen : null}
        />
      </Dialog>
      <Dialog
        title={shelf === 'new' ? 'New shelf' : 'Who may do what on this shelf'}
        open={shelf !== null}
        onClose={() => setShelf(null)}
      >
        {shelf !== null && <ShelfForm shelf={shelf === 'new' ? null : shelf} onDone={() => setShelf(null)} />}
      </Dialog>
    </div>
  )
}

const templateSchema = v.object({ title: filled('Enter a title.'), from: orNone, shelf: orNone })

function Start({
  templates,
  shelves,
  shelf,
}: {
  readonly templates: readonly Row[]
  readonly shelves: readonly Shelf[]
  readonly shelf: string | null
}) {
  const navigate = useNavigate()
  const entry = useEntry({
    schema: templateSchema,
    start: { title: '', from: '', shelf: shelf ?? '' },
    send: (body) => call('startTemplate', { body }),
    onDone: ({ id }) => void navigate(`/templates/${id}`),
  })
  return (
    <Form entry={entry} submit="Create template">
      <TextField label="Title" of={entry.at('title')} autoFocus maxLength={200} />
      <div className="grid grid-cols-2 gap-3">
        <SelectField
          label="Start from"
          of={entry.at('from')}
          options={[
            ['', 'an empty page'],
            ...templates.map(({ id, name }) => [id, `a copy of ${name}`] as const),
          ]}
        />
        <SelectField
          label="Shelf"
          of={entry.at('shelf')}
          options={[['', 'none'], ...shelves.map(({ id, name }) => [id, name] as const)]}
        />
      </div>
    </Form>
  )
}

/** Brings in a DOCX document; what did not carry over is told in the studio, under Editions. */
function Import({ shelf }: { readonly shelf: string | null }) {
  const navigate = useNavigate()
  const say = useNotice()
  const bring = useMutation({
    mutationFn: (file: File) =>
      call('importTemplate', { query: { name: file.name, shelf: shelf ?? undefined }, body: file }),
    onSuccess: ({ id, report }) => {
      say(
        report.length
          ? 'The document is a template now. What changed on the way is told here.'
          : 'The document is a template now; everything carried over.',
      )
      void navigate(`/templates/${id}${report.length ? '?panel=editions' : ''}`)
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  return (
    <UploadButton
      label="DOCX file"
      accept=".docx,application/vnd.openxmlformats-officedocument.wordprocessingml.document"
      busy={bring.isPending}
      onFiles={([file]) => bring.mutate(file)}
    >
      <FileUp size={14} /> Bring in a DOCX
    </UploadButton>
  )
}
