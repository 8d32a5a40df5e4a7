import { useState } from 'react'
import type { AnalysisTold } from './analysis-worker.ts'
import type { Finding } from '#core/rules/analysis/finding.ts'
import { saidOfValues } from '#core/rules/cases.ts'
import { insertRow, removeRows } from '#core/rules/edit.ts'
import type { RuleNames } from '#core/rules/names.ts'
import type { RuleTable } from '#core/rules/table.ts'
import { useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Input } from '#web/parts/input.tsx'
import type { TableDraft } from './use-table.ts'
import { newId } from './grid.ts'
import { shownExample } from './shown-example.ts'

const HEADS: Readonly<Record<Finding['kind'], string>> = {
  hole: 'Nobody is asked',
  contradiction: 'Contradiction',
  overlap: 'Overlap',
  never: 'Never counts',
  covered: 'Says it twice',
  joinable: 'Could be one row',
}

interface Props {
  readonly id: string
  readonly table: RuleTable
  readonly draft: TableDraft
  readonly names: RuleNames
  readonly told: AnalysisTold | null
  /** Whether that is about the table as it stands. */
  readonly current: boolean
  readonly editable: boolean
  readonly onShow: (rows: readonly number[]) => void
  readonly onFault: (row: string | null, column: string | null) => void
}

/** What is wrong with the table, or could be better: faults of cells first, then what looking through all of its cases found. */
export function Findings({ id, table, draft, names, told, current, editable, onShow, onFault }: Props) {
  if (!told) return <p className="p-3 text-sm text-soft">Looking through the table …</p>
  const nothing = told.faults.length + told.findings.length === 0
  return (
    <div className={`text-sm ${current ? '' : 'opacity-60'}`} aria-busy={!current}>
      {nothing && told.complete && (
        <p className="p-3 text-moss">Every case has its row, and no two rows contradict each other.</p>
      )}
      {nothing && !told.complete && (
        <p className="p-3 text-soft">Nothing was found as far as it was looked.</p>
      )}
      <ul>
        {told.faults.slice(0, 100).map((fault, i) => (
          <li key={i} className="border-b border-hair/60 px-3 py-2">
            <button
              className="block w-full text-left text-brick"
              onClick={() => onFault(fault.row, fault.column)}
            >
              {fault.row !== null && <>Row {table.rows.findIndex((row) => row.id === fault.row) + 1}: </>}
              {fault.message}
            </button>
          </li>
        ))}
        {[...told.findings]
          .sort((a, b) => WEIGHTS.indexOf(a.weight) - WEIGHTS.indexOf(b.weight))
          .map((finding) => (
            <FindingLine
              key={`${finding.kind} ${finding.says}`}
              {...{ id, table, draft, names, finding, editable, onShow }}
            />
          ))}
      </ul>
      {told.limits.map((limit) => (
        <p key={limit} className="px-3 py-2 text-xs text-soft">
          {limit}
        </p>
      ))}
    </div>
  )
}

const WEIGHTS: readonly Finding['weight'][] = ['fault', 'question', 'remark']

function FindingLine({
  id,
  table,
  draft,
  names,
  finding,
  editable,
  onShow,
}: Omit<Props, 'told' | 'current' | 'onFault'> & { readonly finding: Finding }) {
  const say = useNotice()
  const [who, setWho] = useState('')
  const [keepToo, setKeepToo] = useState(true)
  const keep = useCall('keepRuleCase', ({ name }) => say(`Kept as the case “${name}”.`))
  const keepCase = (of: RuleTable) =>
    keep.mutate({
      params: { id },
      body: {
        name: finding.says
          .replace(/^Nobody is asked where /, '')
          .replace(/\.$/, '')
          .slice(0, 180),
        values: finding.example,
        expected: [...saidOfValues(of, finding.example, names).said],
      },
    })
  const close = () => {
    const made = insertRow(table, table.rows.length, newId(), {
      when: finding.cells!,
      then: { approver: who.trim() || 'nobody' },
    })
    draft.set(made)
    onShow([made.rows.length - 1])
    if (keepToo && Object.keys(finding.example).length) keepCase(made)
  }
  const example = Object.entries(finding.example)
  const tint = { fault: 'text-brick', question: 'text-ochre', remark: 'text-soft' }[finding.weight]
  return (
    <li className="border-b border-hair/60 px-3 py-2">
      <button className="block w-full text-left" onClick={() => onShow(finding.rows)}>
        <span className={`block text-xs font-semibold ${tint}`}>
          {HEADS[finding.kind]}
          {!finding.certain && ' (may be)'}
        </span>
        {finding.says}
      </button>
      {example.length > 0 && (
        <p className="mt-0.5 text-xs text-soft">For example {shownExample(finding.example, names)}</p>
      )}
      {editable && finding.kind === 'hole' && finding.cells && (
        <form
          className="mt-1.5 flex flex-wrap items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault()
            close()
          }}
        >
          <Input
            aria-label="Who approves in these cases"
            placeholder="nobody"
            list="approver-names"
            className="max-w-44"
            value={who}
            onChange={(event) => setWho(event.target.value)}
          />
          <Button type="submit">Close it</Button>
          {example.length > 0 && (
            <label className="flex items-center gap-1.5 text-xs text-soft">
              <input type="checkbox" checked={keepToo} onChange={() => setKeepToo(!keepToo)} /> keep the
              example as a case
            </label>
          )}
        </form>
      )}
      {editable && finding.kind === 'joinable' && finding.cells && (
        <Button
          className="mt-1.5"
          onClick={() => {
            const [first, second] = finding.rows
            const rows = table.rows.map((row, i) => (i === first ? { ...row, when: finding.cells! } : row))
            draft.set(removeRows({ ...table, rows }, [second!]))
            onShow([first!])
          }}
        >
          Make them one
        </Button>
      )}
      {editable && (finding.kind === 'covered' || finding.kind === 'never') && (
        <Button className="mt-1.5" onClick={() => draft.set(removeRows(table, [finding.rows[0]!]))}>
          Remove row {finding.rows[0]! + 1}
        </Button>
      )}
      {editable && finding.kind !== 'hole' && example.length > 0 && (
        <button className="mt-1 block text-xs text-petrol underline" onClick={() => keepCase(table)}>
          Keep the example as a case
        </button>
      )}
    </li>
  )
}
