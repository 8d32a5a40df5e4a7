import { useMemo, useState } from 'react'
import { type Field, nameTypes } from '#core/outline/field.ts'
import type { RecordFilter } from '#core/records/filter.ts'
import type { RecordKind } from '#core/records/kinds.ts'
import { useCall } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { ConditionEditor, useCondition } from '#web/parts/expressions/condition-editor.tsx'
import { Input } from '#web/parts/input.tsx'

interface Props {
  readonly kind: RecordKind
  readonly fields: readonly Field[]
  readonly filter: RecordFilter
  readonly views: readonly { readonly id: string; readonly name: string; readonly filter: RecordFilter }[]
  readonly onFilter: (where: string) => void
}

/** A filter by rows of comparisons or as an expression; it can be kept under a name for everybody. */
export function RecordFilterForm({ kind, fields, filter, views, onFilter }: Props) {
  const [name, setName] = useState('')
  const keep = useCall('keepView', () => setName(''))
  const drop = useCall('dropView')
  const names = useMemo(() => nameTypes(fields), [fields])
  const condition = useCondition(filter.where, fields, names)
  const { text, setText, problem } = condition
  const view = views.find((each) => each.filter.where === filter.where && filter.where !== '')
  return (
    <form
      aria-label="Filter"
      className="shrink-0 border-y border-hair bg-wash px-4 py-2 text-sm"
      onSubmit={(event) => {
        event.preventDefault()
        if (!problem) onFilter(text.trim())
      }}
    >
      <div className="max-w-xl">
        <ConditionEditor
          condition={condition}
          label="The filter as an expression"
          placeholder='status = "agreed"'
          onEnter={() => onFilter(text.trim())}
        />
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <Button kind="main" type="submit" disabled={problem !== null}>
          Show
        </Button>
        <Button
          kind="quiet"
          onClick={() => {
            setText('')
            onFilter('')
          }}
        >
          All
        </Button>
        {filter.where && !view && (
          <span className="ml-auto flex items-center gap-2">
            <Input
              aria-label="Name of the view"
              placeholder="Keep as …"
              className="w-44"
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
            <Button
              disabled={!name.trim()}
              busy={keep.isPending}
              onClick={() => keep.mutate({ params: { kind }, body: { name, filter } })}
            >
              Keep the view
            </Button>
          </span>
        )}
        {view && (
          <Button
            kind="quiet"
            className="ml-auto"
            onClick={() => drop.mutate({ params: { kind, view: view.id } })}
          >
            Drop the view “{view.name}”
          </Button>
        )}
      </div>
    </form>
  )
}
