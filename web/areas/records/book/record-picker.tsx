import { ChevronDown } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useState } from 'react'
import { PLURALS, type RecordKind } from '#core/records/kinds.ts'
import { useAnswer } from '#web/api/client.ts'
import { PickList } from '#web/parts/pick-list.tsx'
import { useSettled } from '#web/parts/use-settled.ts'

interface Chosen {
  readonly id: string
  readonly name: string
}

const SHOWN = '30'

/** One record of a kind, found by typing: there may be too many for a list. */
export function RecordPicker({
  kind,
  label,
  value,
  disabled,
  onChange,
}: {
  readonly kind: RecordKind
  readonly label: string
  readonly value: Chosen | null
  readonly disabled: boolean
  readonly onChange: (record: Chosen | null) => void
}) {
  const [open, setOpen] = useState(false)
  const [text, setText] = useState('')
  const search = useSettled(text.trim(), 120)
  const found = useAnswer(
    'records',
    { params: { kind }, query: { search, limit: SHOWN } },
    { enabled: open, keep: true },
  )
  const hits = found.data?.records ?? []
  const choose = (record: Chosen | null) => {
    onChange(record && { id: record.id, name: record.name })
    setOpen(false)
    setText('')
  }
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button
          type="button"
          disabled={disabled}
          aria-label={`${label}: ${value?.name ?? 'none'}`}
          className="flex w-full items-center rounded-sm border border-hair bg-sheet px-1.5 py-0.5 text-left text-sm disabled:opacity-60"
        >
          <span className="min-w-0 flex-1 truncate">{value?.name ?? <>&nbsp;</>}</span>
          <ChevronDown size={13} className="text-soft" />
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          className="z-40 max-h-80 w-(--radix-popover-trigger-width) min-w-64 overflow-auto border border-hair bg-paper p-2 text-sm"
        >
          <PickList
            label={`Search ${PLURALS[kind]}`}
            placeholder={`Search ${PLURALS[kind]}`}
            focused
            picks={hits.map((record) => ({ value: record.id, label: record.name, hint: '' }))}
            chosen={value?.id ?? null}
            none={found.isSuccess ? 'None has these words.' : ''}
            onText={setText}
            onChoose={(id) => choose(hits.find((each) => each.id === id) ?? value)}
          />
          {found.data && found.data.total > hits.length && (
            <p className="px-2 pt-1 text-xs text-soft">and {found.data.total - hits.length} more: type on</p>
          )}
          {value && (
            <button className="mt-1 px-2 text-xs text-petrol underline" onClick={() => choose(null)}>
              none
            </button>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
