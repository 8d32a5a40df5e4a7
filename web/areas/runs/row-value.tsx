import { DropdownMenu } from 'radix-ui'
import { useAnswer } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { type RunRow, type Setup, useRun } from './open-run/use-run.ts'

/** Rows asked for at once, as the server gives them. */
const AT_ONCE = 100
const MOST = 8

type ShownField = Setup['shown'][number]

/** The fields whose values stand in the table, from the address. */
export function chosenFields(setup: Setup | null, address: string | null): readonly ShownField[] {
  if (!setup) return []
  const names = address === null ? setup.telling : address.split(',')
  return names.flatMap((name) => setup.shown.find((field) => field.name === name) ?? [])
}

/** What a row says in a field as its agreement will; asked for with the rows around it. */
export function RowValue({
  row,
  field,
  fields,
}: {
  readonly row: RunRow
  readonly field: string
  readonly fields: readonly ShownField[]
}) {
  const { run, rows } = useRun()
  const at = rows.findIndex((each) => each.row === row.row)
  const from = rows[at - (at % AT_ONCE)]?.row ?? 0
  const answer = useAnswer(
    'rowValues',
    {
      params: { id: run.id },
      query: { from: String(from), fields: fields.map(({ name }) => name).join(',') },
    },
    { keep: true },
  )
  const text = answer.data?.find((each) => each.row === row.row)?.values[field]
  return <span title={text ?? undefined}>{text}</span>
}

/** Which fields the table shows. */
export function FieldsMenu({
  setup,
  chosen,
  onChoose,
}: {
  readonly setup: Setup
  readonly chosen: readonly ShownField[]
  readonly onChoose: (names: string) => void
}) {
  const names = chosen.map(({ name }) => name)
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button kind="quiet">Fields</Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={6}
          className="z-50 max-h-96 min-w-52 overflow-auto border border-hair bg-sheet py-1 text-sm"
        >
          {setup.shown.map(({ name, label }) => (
            <DropdownMenu.CheckboxItem
              key={name}
              checked={names.includes(name)}
              disabled={!names.includes(name) && names.length >= MOST}
              onSelect={(event) => event.preventDefault()}
              onCheckedChange={(on) =>
                onChoose((on ? [...names, name] : names.filter((each) => each !== name)).join(','))
              }
              className="flex cursor-pointer items-center gap-2 px-3 py-1 outline-none data-disabled:opacity-40 data-highlighted:bg-petrol-wash"
            >
              <span className="w-4 text-petrol">{names.includes(name) && '✓'}</span>
              {label}
            </DropdownMenu.CheckboxItem>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
