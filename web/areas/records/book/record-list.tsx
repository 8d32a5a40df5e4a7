import { isNumeric } from '#core/outline/field-kinds.ts'
import { Archive, Download, Plus, SlidersHorizontal } from 'lucide-react'
import { useCallback, useMemo, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { type Field } from '#core/outline/field.ts'
import type { RecordFilter } from '#core/records/filter.ts'
import { belongsToCustomer, PLURALS, type RecordKind } from '#core/records/kinds.ts'
import { address, useAnswer, useCall } from '#web/api/client.ts'
import { useMay } from '#web/frame/person.ts'
import { useFilters, useSlash } from '#web/frame/use-filters.ts'
import { Button } from '#web/parts/button.tsx'
import { Input } from '#web/parts/input.tsx'
import { Menu, MenuItem } from '#web/parts/menu.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { type Column, Table } from '#web/parts/table.tsx'
import { count, plural } from '#web/parts/signs/when.tsx'
import { BulkEdit } from './bulk-edit.tsx'
import { DealsToRun } from '#web/areas/records/sheets/deals-to-run.tsx'
import { FieldsForm } from './fields-form.tsx'
import { EditingContext, useEditingOf } from './editing.ts'
import { InlineCell } from './inline-cell.tsx'
import { RecordDetail } from './record-detail.tsx'
import { RecordFilterForm } from './record-filter-form.tsx'
import { type BookRecord, shownValue, useRecords } from './use-records.ts'

interface Props {
  readonly kind: RecordKind
  /** The record beside the list; `new` for one to be made. */
  readonly openId: string | undefined
}

const SHOWN_FIELDS = 6

const orderOf = (sort: string) => (sort ? { by: sort.replace(/^-/, ''), down: sort.startsWith('-') } : null)

/** Records of one kind: searched, filtered by kept views, changed in place or many at once; one opens beside the list. */
export function RecordList({ kind, openId }: Props) {
  const navigate = useNavigate()
  const may = useMay('runs')
  const { search, to, clear } = useFilters()
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set())
  const [open, setOpen] = useState<Opened>(null)
  const list = useRef<HTMLDivElement>(null)
  const filter = {
    search: search.get('search') ?? '',
    where: search.get('where') ?? '',
    sort: search.get('sort') ?? '',
  }
  const archived = search.get('archived') ?? undefined
  const fields = useAnswer('recordFields', { params: { kind } })
  const views = useAnswer('recordViews', { params: { kind } })
  const { found, all, total } = useRecords(kind, { ...filter, archived })
  const outline = useMemo(() => (fields.data?.fields ?? []) as readonly Field[], [fields.data])
  const query = search.toString()
  const path = useCallback(
    (id: string) => ({ pathname: `/records/${PLURALS[kind]}${id}`, search: query }),
    [kind, query],
  )
  const columns = useMemo(
    () =>
      columnsOf(
        kind,
        outline.slice(0, openId ? 2 : SHOWN_FIELDS),
        may,
        (record) => void navigate(path(`/${record.id}`)),
      ),
    [kind, outline, openId, may, navigate, path],
  )
  const editing = useEditingOf(
    columns.flatMap(({ id }) => (id && id !== 'name' && id !== 'customer' ? [id] : [])),
    list,
  )
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = found
  const more = useCallback(() => {
    if (hasNextPage && !isFetchingNextPage) void fetchNextPage()
  }, [hasNextPage, isFetchingNextPage, fetchNextPage])
  const selectAll = async () => {
    let last = await fetchNextPage()
    while (last.hasNextPage) last = await last.fetchNextPage()
    setSelected(new Set(last.data?.pages.flatMap(({ records }) => records.map(({ id }) => id))))
  }
  const ids = [...selected]
  const view = views.data?.find(
    ({ filter: kept }) => kept.search === filter.search && kept.where === filter.where && filter.where !== '',
  )
  return (
    <div className={`grid h-full ${openId ? 'grid-cols-[minmax(0,1fr)_minmax(0,1.15fr)]' : 'grid-cols-1'}`}>
      <div className="flex min-h-0 flex-col">
        <RecordBar
          {...{ kind, filter, archived, ids, open, view }}
          views={views.data ?? []}
          total={found.data ? total : null}
          onOpen={setOpen}
          onNew={() => void navigate(path('/new'))}
          onArchived={() => setSelected(new Set())}
        />
        {open === 'filter' && fields.data && (
          <RecordFilterForm
            kind={kind}
            fields={outline}
            filter={filter}
            views={views.data ?? []}
            onFilter={(where) => to({ where })}
          />
        )}
        {found.isPending || fields.isPending ? (
          <Loading />
        ) : found.isError ? (
          <Failed error={found.error} retry={() => void found.refetch()} />
        ) : all.length === 0 ? (
          <Empty title={filter.search || filter.where ? `No ${kind} matches` : `No ${PLURALS[kind]} yet`}>
            {filter.search || filter.where ? (
              <button className="text-petrol underline" onClick={clear}>
                Show all
              </button>
            ) : (
              'Enter a record, or import a sheet.'
            )}
          </Empty>
        ) : (
          <div ref={list} className="min-h-0 flex-1 px-2">
            <EditingContext value={editing}>
              <Table
                label={PLURALS[kind]}
                rows={all}
                columns={columns}
                idOf={(record) => record.id}
                nameOf={(record) => record.name}
                openId={openId}
                onOpen={(record) => void navigate(path(`/${record.id}`))}
                selected={may ? selected : undefined}
                onSelect={may ? setSelected : undefined}
                onSelectAll={hasNextPage ? () => void selectAll() : undefined}
                onEdit={may ? (record) => editing.step(1, record.id) : undefined}
                onEnd={more}
                order={orderOf(filter.sort)}
                onOrder={(order) => to({ sort: order ? `${order.down ? '-' : ''}${order.by}` : '' })}
              />
            </EditingContext>
          </div>
        )}
      </div>
      {openId && fields.data && (
        <RecordDetail
          key={`${kind}${openId}`}
          kind={kind}
          id={openId === 'new' ? null : openId}
          fields={outline}
          customer={search.get('of')}
          onClose={() => void navigate(path(''))}
          onMade={(id) => void navigate(path(`/${id}`))}
        />
      )}
      {fields.data && (
        <>
          <BulkEdit
            kind={kind}
            fields={outline}
            ids={open === 'bulk' ? ids : null}
            onClose={() => setOpen(null)}
          />
          <FieldsForm
            kind={kind}
            fields={outline.filter(({ name }) => !fields.data.own.includes(name))}
            open={open === 'fields'}
            onClose={() => setOpen(null)}
          />
        </>
      )}
      <DealsToRun
        ids={open === 'run' ? ids : null}
        name={view?.name ?? plural(ids.length, 'deal')}
        onClose={() => setOpen(null)}
      />
    </div>
  )
}

type Opened = 'filter' | 'bulk' | 'fields' | 'run' | null

/** Above the list: search, filter, views, and what can be done with the kind or with what is chosen. */
function RecordBar({
  kind,
  filter,
  archived,
  ids,
  open,
  view,
  views,
  total,
  onOpen,
  onNew,
  onArchived,
}: {
  readonly kind: RecordKind
  readonly filter: RecordFilter
  readonly archived: string | undefined
  readonly ids: readonly string[]
  readonly open: Opened
  readonly view: { readonly name: string } | undefined
  readonly views: readonly { readonly id: string; readonly name: string; readonly filter: RecordFilter }[]
  readonly total: number | null
  readonly onOpen: (open: Opened) => void
  readonly onNew: () => void
  readonly onArchived: () => void
}) {
  const may = useMay('runs')
  const designs = useMay('templates')
  const { to } = useFilters()
  const archive = useCall('changeRecords', onArchived)
  const box = useRef<HTMLInputElement>(null)
  useSlash(box)
  return (
    <div className="flex shrink-0 flex-wrap items-center gap-2 px-4 py-2 text-sm">
      <Input
        ref={box}
        aria-label={`Search ${PLURALS[kind]}`}
        placeholder="Search  /"
        className="max-w-44"
        value={filter.search}
        onChange={(event) => to({ search: event.target.value })}
      />
      <Button aria-expanded={open === 'filter'} onClick={() => onOpen(open === 'filter' ? null : 'filter')}>
        <SlidersHorizontal size={13} /> {view?.name ?? (filter.where ? 'Filtered' : 'Filter')}
      </Button>
      {views.length > 0 && (
        <Menu trigger={<Button kind="quiet">Views</Button>}>
          <MenuItem onSelect={() => to({ search: '', where: '', sort: '' })}>All {PLURALS[kind]}</MenuItem>
          {views.map((each) => (
            <MenuItem key={each.id} onSelect={() => to({ ...each.filter })}>
              {each.name}
            </MenuItem>
          ))}
        </Menu>
      )}
      <span className="text-soft">{total === null ? '' : count(total)}</span>
      <span className="ml-auto flex flex-wrap gap-2">
        {may && ids.length > 0 ? (
          <>
            {kind === 'deal' && (
              <Button kind="main" onClick={() => onOpen('run')}>
                Make {plural(ids.length, 'agreement')}
              </Button>
            )}
            <Button onClick={() => onOpen('bulk')}>Change {count(ids.length)}</Button>
            <Button
              kind="quiet"
              onClick={() => archive.mutate({ params: { kind }, body: { ids, archived: !archived } })}
            >
              <Archive size={13} /> {archived ? 'Restore' : 'Archive'}
            </Button>
          </>
        ) : (
          <>
            <Menu
              trigger={
                <Button kind="quiet">
                  <Download size={13} /> More
                </Button>
              }
            >
              {(['xlsx', 'csv'] as const).map((format) => (
                <MenuItem
                  key={format}
                  onSelect={() =>
                    window.location.assign(
                      address('exportRecords', { params: { kind }, query: { ...filter, format } }),
                    )
                  }
                >
                  Export as {format.toUpperCase()}
                </MenuItem>
              ))}
              <MenuItem onSelect={() => to({ archived: archived ? '' : 'yes' })}>
                {archived ? 'Hide archived' : 'Show archived'}
              </MenuItem>
              {designs && <MenuItem onSelect={() => onOpen('fields')}>Fields of {PLURALS[kind]}</MenuItem>}
            </Menu>
            {may && (
              <Button kind="main" onClick={() => onNew()}>
                <Plus size={13} /> New {kind}
              </Button>
            )}
          </>
        )}
      </span>
    </div>
  )
}

function columnsOf(
  kind: RecordKind,
  fields: readonly Field[],
  may: boolean,
  open: (record: BookRecord) => void,
): readonly Column<BookRecord>[] {
  const [name, ...others] = fields
  const plain = others.map((field): Column<BookRecord> => ({
    id: field.name,
    accessorFn: (record) => {
      const value = record.data[field.name]
      return isNumeric(field.type) ? Number(value ?? 0) : typeof value === 'string' ? value : ''
    },
    header: field.label,
    width: field.type === 'address' || field.type === 'email' ? 'minmax(150px, 1fr)' : 'minmax(100px, 0.6fr)',
    ...(isNumeric(field.type) ? { align: 'right' as const } : {}),
    cell: ({ row }) =>
      may && field.type !== 'list' ? (
        <InlineCell kind={kind} field={field} record={row.original} onOpen={() => open(row.original)} />
      ) : (
        shownValue(field, row.original.data[field.name])
      ),
  }))
  return [
    {
      id: 'name',
      accessorKey: 'name',
      header: name?.label ?? 'Name',
      width: 'minmax(160px, 1fr)',
      cell: ({ row }) => <span className="font-semibold">{row.original.name}</span>,
    },
    ...(belongsToCustomer(kind)
      ? [
          {
            id: 'customer',
            accessorFn: (record: BookRecord) => record.customer?.name ?? '',
            header: 'Customer',
            enableSorting: false,
            width: 'minmax(140px, 0.8fr)',
          },
        ]
      : []),
    ...plain,
  ]
}
