import { Plus, X } from 'lucide-react'
import { useMemo, useState } from 'react'
import { Link, useParams } from 'react-router'
import { namedIn, stepProblems } from '#core/next-steps/problems.ts'
import {
  type Delay,
  describeStep,
  type Moment,
  MOMENTS,
  momentsOf,
  type Step,
  STEP_KINDS,
  type StepKind,
} from '#core/next-steps/steps.ts'
import { useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay, usePerson } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Menu, MenuItem } from '#web/parts/menu.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import type { Aftermath } from './list.ts'
import { StepForm } from './step-form.tsx'

const MOMENT_WORDS: Readonly<Record<Moment, string>> = {
  executed: 'When executed',
  delivered: 'When delivered',
  out: 'When sent',
  declined: 'If a signer declines',
  lapsed: 'If it lapses',
  withdrawn: 'If it is withdrawn',
}

/** What follows the agreements of a template or packet: a list in the order in which it is due. */
export default function AftermathPage({ kind }: { readonly kind: 'template' | 'packet' }) {
  const { id = '' } = useParams()
  const list = useAnswer('aftermath', { params: { kind, id } })
  if (list.isPending) return <Loading />
  if (list.isError) return <Failed error={list.error} retry={() => void list.refetch()} />
  return <Opened key={`${id} ${list.data.version}`} kind={kind} id={id} list={list.data} />
}

const hours = ({ count, unit }: Delay): number => count * (unit === 'hours' ? 1 : unit === 'days' ? 24 : 33.6)

/** When a step is due, in words. */
export const describeDelay = ({ count, unit }: Delay): string =>
  count === 0 ? 'at once' : `${count} ${count === 1 ? unit.replace(/s$/, '') : unit} after`

function Opened({
  kind,
  id,
  list,
}: {
  readonly kind: 'template' | 'packet'
  readonly id: string
  readonly list: Aftermath
}) {
  const editable = useMay('templates')
  const me = usePerson()
  const say = useNotice()
  const [steps, setSteps] = useState(list.steps)
  const [chosen, setChosen] = useState<string | null>(null)
  const save = useCall('saveAftermath', () => say('Next steps saved. They apply to agreements from now on.'))
  const { choices, outline } = list
  const names = useMemo(
    () =>
      new Map(
        [...choices.folders, ...choices.programs, ...choices.people, ...choices.templates].map((each) => [
          each.id,
          each.name,
        ]),
      ),
    [choices],
  )
  const { notice } = list
  const problems = useMemo(
    () => stepProblems(steps, outline, namedIn(choices), notice),
    [steps, outline, choices, notice],
  )
  const step = steps.find((each) => each.id === chosen)
  const changed = JSON.stringify(steps) !== JSON.stringify(list.steps)
  const add = (of: StepKind) => {
    const made = newStep(of, me.id, list)
    setSteps([...steps, made])
    setChosen(made.id)
  }
  return (
    <div className="flex h-full flex-col">
      <div className="flex items-center gap-4 border-b border-hair px-4 pt-3 pb-2">
        <div className="min-w-0">
          <Link
            to={kind === 'packet' ? '/templates/packets' : `/templates/${id}`}
            className="block text-xs text-petrol hover:underline"
          >
            {list.name}
          </Link>
          <h1 className="text-xl">Next steps</h1>
        </div>
        {editable && (
          <span className="ml-auto flex gap-2">
            <Menu
              trigger={
                <Button>
                  <Plus size={14} /> Add step
                </Button>
              }
            >
              {STEP_KINDS.map((each) => (
                <MenuItem key={each} onSelect={() => add(each)}>
                  {each}
                </MenuItem>
              ))}
            </Menu>
            <Button
              kind="main"
              busy={save.isPending}
              disabled={!changed || problems.length > 0}
              onClick={() => save.mutate({ params: { kind, id }, body: { steps, version: list.version } })}
            >
              Save next steps
            </Button>
          </span>
        )}
      </div>
      {outline.length === 0 ? (
        <Empty title="Not published yet">Next steps can be set once there is an edition.</Empty>
      ) : steps.length === 0 ? (
        <Empty title="No next steps yet">
          File the document, write to people who get it only now, tell a program, make the invoice: add a
          step.
        </Empty>
      ) : (
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1.1fr)_minmax(0,1fr)]">
          <div className="min-h-0 overflow-auto px-4 pb-10">
            {MOMENTS.map((moment) => {
              const own = steps
                .filter(({ on }) => on === moment)
                .sort((a, b) => hours(a.delay) - hours(b.delay))
              if (own.length === 0) return null
              return (
                <section key={moment} aria-label={MOMENT_WORDS[moment]} className="mt-5">
                  <h2 className="border-b border-hair pb-1 font-serif text-base font-semibold">
                    {MOMENT_WORDS[moment]}
                  </h2>
                  <ol>
                    {own.map((each) => (
                      <Line
                        key={each.id}
                        step={each}
                        said={describeStep(each, (of) => names.get(of) ?? '…')}
                        tells={names.get(each.tell) ?? '…'}
                        problems={problems
                          .filter(({ step: of }) => of === each.id)
                          .map(({ message }) => message)}
                        chosen={each.id === chosen}
                        editable={editable}
                        onChoose={() => setChosen(each.id)}
                        onDrop={() => setSteps(steps.filter((other) => other !== each))}
                      />
                    ))}
                  </ol>
                </section>
              )
            })}
          </div>
          <div className="min-h-0 overflow-auto border-l border-hair px-5 pt-3 pb-10">
            {step ? (
              <StepForm
                key={step.id}
                step={step}
                list={list}
                editable={editable}
                onChange={(next) => setSteps(steps.map((each) => (each.id === next.id ? next : each)))}
              />
            ) : (
              <p className="text-sm text-soft">Choose a step to see its settings.</p>
            )}
          </div>
        </div>
      )}
    </div>
  )
}

function Line({
  step,
  said,
  tells,
  problems,
  chosen,
  editable,
  onChoose,
  onDrop,
}: {
  readonly step: Step
  readonly said: string
  readonly tells: string
  readonly problems: readonly string[]
  readonly chosen: boolean
  readonly editable: boolean
  readonly onChoose: () => void
  readonly onDrop: () => void
}) {
  return (
    <li
      className={`grid grid-cols-[9.5rem_minmax(0,1fr)_auto] items-baseline gap-3 border-b border-hair/60 ${chosen ? 'bg-petrol-wash' : 'hover:bg-wash'}`}
    >
      <span className="border-r border-hair py-2 pr-3 text-right text-sm text-soft tabular-nums">
        {describeDelay(step.delay)}
      </span>
      <button className="min-w-0 py-2 text-left" aria-pressed={chosen} onClick={onChoose}>
        <span className="block first-letter:capitalize wrap-anywhere">{said}</span>
        {step.when.trim() && <span className="block text-sm text-soft italic">only if {step.when}</span>}
        <span className="block text-xs text-soft">{tells} is told if it fails</span>
        {problems.map((problem) => (
          <span key={problem} className="block text-sm text-brick">
            {problem}
          </span>
        ))}
      </button>
      {editable && (
        <button
          className="p-2 text-soft hover:text-ink"
          aria-label={`Without this: ${said}`}
          onClick={onDrop}
        >
          <X size={14} />
        </button>
      )}
    </li>
  )
}

/** A step as it begins, by its kind. */
function newStep(kind: StepKind, tell: string, { choices, notice }: Aftermath): Step {
  const [on] = momentsOf(notice) as readonly [Moment]
  const common = {
    id: crypto.randomUUID(),
    on,
    when: '',
    delay: { count: 0, unit: 'days' as const },
    tell,
  }
  switch (kind) {
    case 'file to the record':
      return { ...common, kind, name: '{{number}}' }
    case 'file to a folder':
      return { ...common, kind, folder: choices.folders[0]?.id ?? tell, name: '{{number}}' }
    case 'mail':
      return { ...common, kind, to: '', subject: '', text: '', attach: true }
    case 'tell a program':
      return { ...common, kind, program: choices.programs[0]?.id ?? tell }
    case 'tell the customer system':
      return { ...common, kind, status: on, link: true, file: true }
    case 'follow-up':
      return { ...common, kind, person: tell, text: '', days: 7 }
    case 'change the record':
      return { ...common, kind, of: 'record', field: 'status', value: '"agreed"' }
    case 'next document':
      return { ...common, kind, template: choices.templates[0]?.id ?? tell, send: false, bill: null }
  }
}
