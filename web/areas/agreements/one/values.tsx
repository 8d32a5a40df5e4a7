import { X } from 'lucide-react'
import { useEffect, useRef } from 'react'
import { FieldInput } from '#web/areas/records/book/field-input.tsx'
import { ListEntry } from './list-entry.tsx'
import type { useOneAgreement, Value } from './use-one-agreement.ts'

type One = ReturnType<typeof useOneAgreement>

const labelOf = ({ label, list }: Value) => (list ? `${label} of each item` : label)

/** Places for what is missing or wrong, and for whatever else somebody gives for this one agreement. */
export function Asked({
  one: { asked, given, keeper },
  opened,
  typed,
}: {
  readonly one: One
  /** There is no record: every value has its place here, and keeps it. */
  readonly typed: boolean
  /** What somebody has just said they would give: its place has the focus once it is here. */
  readonly opened: { readonly name: string } | null
}) {
  const list = useRef<HTMLUListElement>(null)
  const mayClose = (value: Value) => !typed && canBeClosed(value, given.answers[value.name])
  const isHere = opened !== null && asked.some(({ name }) => name === opened.name)
  useEffect(() => {
    if (!isHere) return
    const row = [...(list.current?.children ?? [])].find(
      (each) => (each as HTMLElement).dataset['value'] === opened?.name,
    )
    row?.querySelector<HTMLElement>('input, select, textarea')?.focus()
  }, [isHere, opened])
  if (asked.length === 0) return null
  return (
    <>
      <h2 className="mt-5 mb-1 font-serif text-base font-semibold">
        {typed ? 'Values' : 'Given for this one'}
      </h2>
      <ul ref={list}>
        {asked.map((value) => (
          <li
            key={value.name}
            data-value={value.name}
            data-missing={value.missing || undefined}
            className={`grid items-start gap-2 py-1 ${value.type === 'list' ? 'grid-cols-1' : 'grid-cols-[10rem_minmax(0,1fr)_1.5rem]'}`}
            onKeyDown={(event) => {
              if (event.key !== 'Escape' || !mayClose(value)) return
              event.stopPropagation()
              keeper.close(value.name)
            }}
          >
            <span className="pt-0.5 text-soft">{labelOf(value)}</span>
            {value.type === 'list' ? (
              value.items.length > 0 && value.column === null ? (
                <ListEntry
                  value={value}
                  items={given.lists[value.name] ?? []}
                  onChange={(items) => keeper.setItems(value.name, items)}
                />
              ) : (
                <span className="text-brick">{value.problem ?? value.said}</span>
              )
            ) : (
              <div>
                <FieldInput
                  field={{
                    name: value.name,
                    label: value.label,
                    type: value.type,
                    required: value.required,
                    ...(value.choices ? { choices: value.choices } : {}),
                  }}
                  label={labelOf(value)}
                  value={given.answers[value.name] ?? ''}
                  invalid={value.problem !== null && !value.missing}
                  onChange={(text) => keeper.answer(value.name, text)}
                />
                <Told value={value} answer={given.answers[value.name] ?? ''} typed={typed} />
              </div>
            )}
            <button
              className="mt-0.5 p-0.5 text-soft hover:text-ink disabled:invisible"
              aria-label={`Take back what is given for ${labelOf(value)}`}
              title="Escape in its place does the same"
              // From place to place Tab goes past it: the key for it is Escape.
              tabIndex={-1}
              disabled={!mayClose(value)}
              onClick={() => keeper.close(value.name)}
            >
              <X size={14} />
            </button>
          </li>
        ))}
      </ul>
    </>
  )
}

/** Whether what the record says may stand again: where that is missing or wrong, there is nothing to go back to. */
const canBeClosed = ({ problem }: Value, answer: string | undefined): boolean =>
  problem === null || Boolean(answer)

const saidOf = ({ said, help, example }: Value, answer: string, typed: boolean) =>
  answer
    ? `reads ${said ?? 'nothing'}`
    : said
      ? typed
        ? `${said} if nothing is typed`
        : `the record says ${said}`
      : (help ?? (example && `such as ${example}`))

/** Under a place: what is wrong with it, else how it reads, or what the record says. */
function Told({
  value,
  answer,
  typed,
}: {
  readonly value: Value
  readonly answer: string
  readonly typed: boolean
}) {
  const look = 'mt-0.5 block text-xs'
  if (value.missing)
    return (
      <span className={`${look} text-ochre`}>
        missing{value.example && <span className="text-soft">, such as {value.example}</span>}
      </span>
    )
  if (value.problem !== null) return <span className={`${look} text-brick`}>{value.problem}</span>
  return <span className={`${look} text-soft`}>{saidOf(value, answer, typed)}</span>
}

/** What the record says, each with where it comes from; any of it can be given otherwise for this one agreement. */
export function Rest({
  one: { rest, keeper },
  onOpen,
}: {
  readonly one: One
  readonly onOpen: (name: string) => void
}) {
  if (rest.length === 0) return null
  return (
    <>
      <h2 className="mt-5 mb-1 font-serif text-base font-semibold">From the record</h2>
      <table className="w-full table-fixed">
        <thead className="sr-only">
          <tr>
            <th>Value</th>
            <th>What it says</th>
            <th>Where from</th>
          </tr>
        </thead>
        <tbody>
          {rest.map((value) => (
            <tr key={value.name} className="group border-b border-hair/60 align-top">
              <td className="w-40 py-1 pr-2 text-soft">{labelOf(value)}</td>
              <td className="py-1 pr-2 wrap-anywhere">
                {value.said ?? <span className="text-soft">nothing</span>}
              </td>
              <td className="w-44 py-1 text-xs text-soft">
                <span className="flex items-baseline gap-2">
                  <span className="truncate" title={value.column ?? undefined}>
                    {value.column ?? (value.said === null ? '' : 'worked out')}
                  </span>
                  {value.type !== 'list' && (
                    <button
                      className="ml-auto whitespace-nowrap text-petrol opacity-0 group-hover:opacity-100 hover:underline focus:opacity-100"
                      aria-label={`Give ${labelOf(value)} otherwise`}
                      onClick={() => {
                        keeper.open([value.name])
                        onOpen(value.name)
                      }}
                    >
                      give otherwise
                    </button>
                  )}
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  )
}
