import { useState } from 'react'
import type { RuleTableAnswer } from '#contract/rule.ts'
import { cellText, columnsOf } from '#core/rules/edit.ts'
import type { Row, RuleTable } from '#core/rules/table.ts'
import { useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { When } from '#web/parts/signs/when.tsx'
import type { TableDraft } from './use-table.ts'
import { headOf } from './grid.ts'

/** The editions of a table: what each said, against the draft, and a way to bring it back. */
export function Editions({
  answer,
  table,
  draft,
  editable,
}: {
  readonly answer: RuleTableAnswer
  readonly table: RuleTable
  readonly draft: TableDraft
  readonly editable: boolean
}) {
  const [open, setOpen] = useState(answer.editions[0]?.number ?? null)
  if (open === null)
    return <Empty title="No edition yet">The draft becomes the first edition when it is put in force.</Empty>
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[20rem_1fr]">
      <ul className="overflow-auto border-r border-hair text-sm" aria-label="Editions">
        {answer.editions.map(({ number, publishedAt, publishedBy, note }) => (
          <li key={number}>
            <button
              aria-current={open === number}
              className={`w-full border-b border-hair/60 px-4 py-2 text-left ${open === number ? 'bg-petrol-wash' : 'hover:bg-wash'}`}
              onClick={() => setOpen(number)}
            >
              <span className="font-semibold">Edition {number}</span>
              {number === answer.editions[0]!.number && answer.inForce && (
                <span className="text-moss">, in force</span>
              )}
              <span className="block text-soft">
                <When at={publishedAt} /> by {publishedBy}
              </span>
              {note && <span className="block">{note}</span>}
            </button>
          </li>
        ))}
      </ul>
      <Edition key={open} id={answer.id} number={open} table={table} draft={draft} editable={editable} />
    </div>
  )
}

function Edition({
  id,
  number,
  table,
  draft,
  editable,
}: {
  readonly id: string
  readonly number: number
  readonly table: RuleTable
  readonly draft: TableDraft
  readonly editable: boolean
}) {
  const say = useNotice()
  const edition = useAnswer('ruleEdition', { params: { id, number } })
  if (edition.isPending) return <Loading />
  if (edition.isError) return <Failed error={edition.error} retry={() => void edition.refetch()} />
  const changes = changesOf(edition.data, table)
  return (
    <div className="min-h-0 overflow-auto p-4 text-sm">
      <div className="flex items-center gap-3">
        <h2 className="text-base">
          {changes.length === 0 ? 'The draft says the same' : 'What the draft says otherwise'}
        </h2>
        {editable && changes.length > 0 && (
          <Button
            className="ml-auto"
            onClick={() => {
              draft.set(edition.data)
              say(`The draft says what edition ${number} says.`)
            }}
          >
            Bring edition {number} back as the draft
          </Button>
        )}
      </div>
      <ul className="mt-2">
        {changes.map(({ where, before, after }, i) => (
          <li key={i} className="grid grid-cols-[14rem_1fr] gap-3 border-b border-hair/60 py-1">
            <span className="text-soft">{where}</span>
            <span>
              {before && <del className="bg-brick-wash text-brick">{before}</del>}{' '}
              {after && <ins className="bg-moss-wash text-moss">{after}</ins>}
            </span>
          </li>
        ))}
      </ul>
    </div>
  )
}

interface Change {
  readonly where: string
  readonly before: string
  readonly after: string
}

const rowText = (table: RuleTable, row: Row): string =>
  columnsOf(table)
    .map((column) => cellText(row, column))
    .filter((text) => text !== '' && text !== '-')
    .join(' · ')

/** Ids of the rows that another table has too, in order. */
function commonIds({ rows }: RuleTable, other: RuleTable): readonly string[] {
  const others = new Set(other.rows.map(({ id }) => id))
  return rows.flatMap(({ id }) => (others.has(id) ? [id] : []))
}

/** Differences cell by cell; rows are known by their ids. */
function changesOf(before: RuleTable, after: RuleTable): readonly Change[] {
  const changes: Change[] = []
  const told = (where: string, was: string, is: string) => {
    if (was !== is) changes.push({ where, before: was, after: is })
  }
  told('Name', before.name, after.name)
  told('Where several hold', before.hitPolicy, after.hitPolicy)
  told('Where none does', before.otherwise, after.otherwise)
  told('A missing value', before.missing, after.missing)
  told('About', JSON.stringify(before.scope), JSON.stringify(after.scope))
  told(
    'Columns',
    before.inputs.map(({ expression }) => expression).join(', '),
    after.inputs.map(({ expression }) => expression).join(', '),
  )
  // Of the rows that both have, those whose place among them is another were moved.
  const [stayedBefore, stayedAfter] = [commonIds(before, after), commonIds(after, before)]
  after.rows.forEach((row, i) => {
    const former = before.rows.findIndex(({ id }) => id === row.id)
    if (former < 0) return told(`Row ${i + 1}, new`, '', rowText(after, row))
    if (stayedBefore.indexOf(row.id) !== stayedAfter.indexOf(row.id))
      changes.push({ where: `Row ${i + 1}, moved`, before: `${former + 1}`, after: `${i + 1}` })
    for (const column of columnsOf(after))
      told(
        `Row ${i + 1}, ${headOf(after, column)}`,
        cellText(before.rows[former]!, column),
        cellText(row, column),
      )
  })
  before.rows.forEach((row, i) => {
    if (!after.rows.some(({ id }) => id === row.id))
      told(`Row ${i + 1} of then, gone`, rowText(before, row), '')
  })
  return changes
}
