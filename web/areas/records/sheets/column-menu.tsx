import { COLUMN_TYPES } from '#core/outline/cell.ts'
import { useMutation } from '@tanstack/react-query'
import { ChevronDown } from 'lucide-react'
import { call, problemText } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Menu, MenuItem } from '#web/parts/menu.tsx'
import type { Sheet } from './grid.ts'

type Column = Sheet['columns'][number]

/** A column's name; pressing it lets one say what it holds, and which of day and month comes first. */
export function ColumnMenu({
  sheet,
  column,
  editable,
}: {
  readonly sheet: Sheet
  readonly column: Column
  readonly editable: boolean
}) {
  const notify = useNotice()
  const say = useMutation({
    mutationFn: (change: { type?: Column['type'] | null; dateOrder?: Column['dateOrder'] }) =>
      call('sayColumn', { params: { id: sheet.id }, body: { column: column.name, ...change } }),
    onError: (error) => notify(problemText(error), 'fault'),
  })
  if (!editable) return <span className="truncate font-semibold">{column.name}</span>
  const tick = (on: boolean) => (on ? '✓ ' : '')
  return (
    <Menu
      trigger={
        <button
          className="flex items-center gap-1 text-left font-semibold hover:text-petrol"
          title={column.name}
        >
          <span className="truncate">{column.name}</span>
          <ChevronDown size={12} className="shrink-0 text-soft" />
        </button>
      }
    >
      <MenuItem onSelect={() => say.mutate({ type: null, dateOrder: null })}>
        {tick(!column.said.type)}As its cells tell
      </MenuItem>
      {COLUMN_TYPES.filter((type) => type !== 'empty').map((type) => (
        <MenuItem key={type} onSelect={() => say.mutate({ type })}>
          {tick(column.said.type === type)}
          {type}
        </MenuItem>
      ))}
      {(column.type === 'date' || column.type === 'date and time') &&
        (['day first', 'month first'] as const).map((order) => (
          <MenuItem key={order} onSelect={() => say.mutate({ dateOrder: order })}>
            {tick(column.dateOrder === order)}
            dates with the {order}
          </MenuItem>
        ))}
    </Menu>
  )
}
