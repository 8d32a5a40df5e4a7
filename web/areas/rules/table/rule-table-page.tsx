import { Download, Redo2, Undo2 } from 'lucide-react'
import { useMemo, useState } from 'react'
import { Link, useParams } from 'react-router'
import type { RuleTableAnswer } from '#contract/rule.ts'
import { plainTests } from '#core/rules/cell.ts'
import { columnsOf } from '#core/rules/edit.ts'
import { lackingNames, testedBy } from '#core/rules/faults.ts'
import { namesFor, type RuleNames } from '#core/rules/names.ts'
import { isAnything, type RuleTable } from '#core/rules/table.ts'
import { address, useAnswer } from '#web/api/client.ts'
import { useFilters } from '#web/frame/use-filters.ts'
import { useMay } from '#web/frame/person.ts'
import { Hint } from '#web/parts/hint.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { Tabs } from '#web/parts/tabs.tsx'
import { Cases } from './cases.tsx'
import { Editions } from './editions.tsx'
import { Findings } from './findings.tsx'
import { type Chosen, keyOf } from './grid.ts'
import { LookBackView } from './look-back.tsx'
import { RecordInView, useRecordInView, useRowsFor } from './record-in-view.tsx'
import { RuleGrid } from './rule-grid.tsx'
import { Settings } from './settings.tsx'
import { Publish, SavingLine } from './publish.tsx'
import { useAnalysis, type World } from './use-analysis.ts'
import { draftOf, type TableDraft, useSavedOnLeaving } from './use-table.ts'
import type { AnalysisTold } from './analysis-worker.ts'
import type { DraftState } from '#web/drafts/draft-store.ts'
import { useDraft } from '#web/drafts/use-draft.ts'

const VIEWS = ['table', 'look back', 'editions'] as const
const SIDES = ['findings', 'record', 'cases'] as const

/** A rule table: written like a sheet, looked through as it is typed, tried on what was made before. */
export default function RuleTablePage() {
  const { id = '' } = useParams()
  const table = useAnswer('ruleTable', { params: { id } })
  if (table.isPending) return <Loading />
  if (table.isError) return <Failed error={table.error} retry={() => void table.refetch()} />
  return <Opened key={id} answer={table.data} />
}

function Opened({ answer }: { readonly answer: RuleTableAnswer }) {
  const { id } = answer
  const may = useMay('rules')
  const [draft] = useState(() => draftOf(answer))
  useSavedOnLeaving(draft, id)
  const state = useDraft(draft)
  const { content: table } = state
  const { scope } = table
  const { search, to } = useFilters()
  const view = VIEWS.find((each) => each === search.get('view')) ?? 'table'
  const side = SIDES.find((each) => each === search.get('side')) ?? 'findings'
  const world = useAnswer(
    'ruleNames',
    { query: scope.kind === 'all' ? { kind: 'all' } : { kind: scope.kind, id: scope.id } },
    { keep: true },
  )
  const names = useMemo(() => namesFor(world.data?.templates ?? []), [world.data])
  const { told, current } = useAnalysis(table, world.data as World | undefined)
  const record = useRecordInView(scope)
  const lit = useRowsFor(table, record.record, names)
  const [chosen, setChosen] = useState<Chosen>({ row: 0, column: 0, toRow: 0, toColumn: 0 })
  const reading = useMemo(
    () => ({
      testedOf: (input: string) =>
        testedBy(table.inputs.find((each) => each.id === input) ?? { expression: '' }, names),
      types: names.types,
    }),
    [table.inputs, names],
  )
  const show = (rows: readonly number[]) => {
    const [first] = rows
    if (first === undefined) return
    to({ view: '' })
    setChosen({ row: first, column: 0, toRow: rows.length === 1 ? first : rows.at(-1)!, toColumn: 0 })
  }
  const showFault = (row: string | null, column: string | null) => {
    const place = Math.max(
      0,
      table.rows.findIndex((each) => each.id === row),
    )
    const at = Math.max(
      0,
      columnsOf(table).findIndex((each) => keyOf(each) === column),
    )
    to({ view: '' })
    setChosen({ row: place, column: at, toRow: place, toColumn: at })
  }
  if (world.isError) return <Failed error={world.error} retry={() => void world.refetch()} />
  return (
    <div className="flex h-full flex-col">
      <div className="flex shrink-0 items-center gap-2 border-b border-hair px-4 py-1.5">
        <Link to="/rules" className="text-sm text-petrol hover:underline">
          Rules
        </Link>
        <span className="text-soft">/</span>
        <input
          aria-label="Name of the table"
          className="w-72 rounded-sm border border-transparent bg-transparent px-1 font-serif text-lg font-semibold hover:border-hair focus:border-hair"
          value={table.name}
          disabled={!may}
          maxLength={200}
          onChange={(event) => draft.set({ ...table, name: event.target.value }, 'name')}
        />
        <Hint topic="rules" />
        <Tabs
          label="Views of the table"
          tabs={VIEWS}
          chosen={view}
          onChoose={(next) => to({ view: next === 'table' ? '' : next })}
        />
        <TableTools {...{ answer, draft, state, names }} told={current ? told : null} editable={may} />
      </div>
      {view === 'look back' ? (
        <LookBackView id={id} table={table} />
      ) : view === 'editions' ? (
        <Editions answer={answer} table={table} draft={draft} editable={may} />
      ) : (
        <>
          <Settings table={table} draft={draft} scopes={world.data?.scopes ?? []} editable={may} />
          <div className="flex min-h-0 flex-1">
            <div className="flex min-w-0 flex-1 flex-col">
              <RuleGrid
                table={table}
                draft={draft}
                names={names}
                directory={world.data?.directory ?? { people: [], teams: [] }}
                reading={reading}
                faults={told?.faults ?? []}
                lit={lit}
                chosen={chosen}
                onChoose={setChosen}
                editable={may}
              />
              <CurrentLine
                table={table}
                chosen={chosen}
                names={names}
                told={told}
                onMend={(made) => draft.set(made)}
              />
              <Lacking table={table} names={names} />
            </div>
            <Side
              {...{ answer, table, draft, names, told, current, record, lit, side }}
              editable={may}
              onSide={(next) => to({ side: next === 'findings' ? '' : next })}
              onShow={show}
              onFault={showFault}
            />
          </div>
        </>
      )}
    </div>
  )
}

/** How the draft stands, undo and redo, the table as a file, and publishing. */
function TableTools({
  answer,
  draft,
  state,
  names,
  told,
  editable,
}: {
  readonly answer: RuleTableAnswer
  readonly draft: TableDraft
  readonly state: DraftState<RuleTable>
  readonly names: RuleNames
  /** What was found of the table as it stands; null: not looked through yet. */
  readonly told: AnalysisTold | null
  readonly editable: boolean
}) {
  const { content: table, steps } = state
  return (
    <span className="ml-auto flex items-center gap-1">
      <SavingLine draft={draft} state={state} />
      {editable && (
        <>
          <button
            aria-label="Undo (Ctrl Z)"
            title="Undo (Ctrl Z)"
            className="p-1.5 text-soft hover:text-ink disabled:opacity-40"
            disabled={steps.undo === 0}
            onClick={draft.undo}
          >
            <Undo2 size={16} />
          </button>
          <button
            aria-label="Redo (Ctrl Y)"
            title="Redo (Ctrl Y)"
            className="p-1.5 text-soft hover:text-ink disabled:opacity-40"
            disabled={steps.redo === 0}
            onClick={draft.redo}
          >
            <Redo2 size={16} />
          </button>
        </>
      )}
      <a
        href={address('exportRuleTable', { params: { id: answer.id } })}
        download
        aria-label="The draft as DMN"
        title="The draft as DMN"
        className="p-1.5 text-soft hover:text-ink"
      >
        <Download size={16} />
      </a>
      {editable && <Publish answer={answer} draft={draft} table={table} told={told} names={names} />}
    </span>
  )
}

/** What stands beside the table: what was found in it, a record in view, its test cases. */
function Side({
  answer,
  table,
  draft,
  names,
  told,
  current,
  record,
  lit,
  side,
  editable,
  onSide,
  onShow,
  onFault,
}: {
  readonly answer: RuleTableAnswer
  readonly table: RuleTable
  readonly draft: TableDraft
  readonly names: RuleNames
  readonly told: AnalysisTold | null
  readonly current: boolean
  readonly record: ReturnType<typeof useRecordInView>
  readonly lit: ReadonlySet<number>
  readonly side: (typeof SIDES)[number]
  readonly editable: boolean
  readonly onSide: (side: (typeof SIDES)[number]) => void
  readonly onShow: (rows: readonly number[]) => void
  readonly onFault: (row: string | null, column: string | null) => void
}) {
  const { id } = answer
  return (
    <aside className="flex w-80 shrink-0 flex-col border-l border-hair" aria-label="Beside the table">
      <div className="shrink-0 border-b border-hair px-2 py-1">
        <Tabs
          label="What stands beside the table"
          tabs={SIDES}
          chosen={side}
          counts={{
            findings: told ? told.faults.length + told.findings.length : undefined,
            cases: answer.cases.length,
          }}
          onChoose={onSide}
        />
      </div>
      <div className="min-h-0 flex-1 overflow-auto">
        {side === 'findings' ? (
          <Findings
            {...{ id, table, draft, names, told, current }}
            editable={editable}
            onShow={onShow}
            onFault={onFault}
          />
        ) : side === 'record' ? (
          <RecordInView {...{ id, table, names, lit }} view={record} editable={editable} />
        ) : (
          <Cases {...{ id, table, names }} cases={answer.cases} editable={editable} onShow={onShow} />
        )}
      </div>
    </aside>
  )
}

/** The row one is in, as one would say it, and the fault of the cell. */
function CurrentLine({
  table,
  chosen,
  names,
  told,
  onMend,
}: {
  readonly table: RuleTable
  readonly chosen: Chosen
  readonly names: ReturnType<typeof namesFor>
  readonly told: ReturnType<typeof useAnalysis>['told']
  readonly onMend: (table: RuleTable) => void
}) {
  const row = table.rows[chosen.row]
  const column = columnsOf(table)[chosen.column]
  if (!row || !column) return null
  const fault = told?.faults.find((each) => each.row === row.id && each.column === keyOf(column))
  const asks = table.inputs.flatMap((input) => {
    const cell = row.when[input.id]
    if (isAnything(cell)) return []
    const test = plainTests(cell!, (value) => names.words.show(value, input.expression))
    const label = input.label || names.words.label(input.expression)
    return [test.startsWith('where ') ? `${label}, ${test}` : `${label} is ${test}`]
  })
  const mend = () => {
    const rows = table.rows.map((each) =>
      each.id !== row.id
        ? each
        : column.kind === 'input'
          ? { ...each, when: { ...each.when, [column.id]: fault!.meant! } }
          : column.kind === 'output'
            ? { ...each, then: { ...each.then, [column.key]: fault!.meant! } }
            : each,
    )
    onMend({ ...table, rows })
  }
  return (
    <p
      className="flex min-h-8 shrink-0 items-center gap-3 border-t border-hair bg-paper px-3 py-1 text-sm"
      aria-live="polite"
    >
      <span className="text-soft tabular-nums">Row {chosen.row + 1}</span>
      {fault ? (
        <span className="text-brick">
          {fault.message}{' '}
          {fault.meant !== null && (
            <button className="underline" onClick={mend}>
              Use “{fault.meant}”
            </button>
          )}
        </span>
      ) : (
        <span className="truncate">
          {asks.length ? `Where ${asks.join(' and ')}` : 'Always'}:{' '}
          {(row.then.refuse && `refused, ${row.then.refuse}`) || row.then.approver || 'nobody approves'}
        </span>
      )}
    </p>
  )
}

/** Names that not every template in scope has. */
function Lacking({
  table,
  names,
}: {
  readonly table: RuleTable
  readonly names: ReturnType<typeof namesFor>
}) {
  const lacking = useMemo(() => [...lackingNames(table, names)], [table, names])
  if (!lacking.length) return null
  return (
    <p className="shrink-0 border-t border-hair px-3 py-1 text-xs text-soft">
      {lacking
        .slice(0, 3)
        .map(
          ([name, titles]) =>
            `${names.words.label(name)} is not in ${titles.join(', ')}: rows that test it do not hold there.`,
        )
        .join(' ')}
      {lacking.length > 3 && ` And ${lacking.length - 3} more.`}
    </p>
  )
}
