import type { FieldType } from '#core/outline/field-kinds.ts'
import { useMemo } from 'react'
import type { NameTypes } from '#core/expression/check.ts'
import { expressionFaults } from '#core/merge/faults.ts'
import type { Field } from '#core/outline/field.ts'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { ExpressionEditor } from '#web/parts/expressions/expression-editor.tsx'

/** Whether a field is computed, and by which formula; beside it what comes of it for the record in the proof. */
export function FieldFormula({
  field,
  names,
  inList,
  onChange,
}: {
  readonly field: Field
  /** Names that the formula may use. */
  readonly names: NameTypes
  readonly inList: boolean
  readonly onChange: (next: (field: Field) => Field) => void
}) {
  const { proof } = useStudio()
  const { computed, type } = field
  const fault = useMemo(
    () => (computed ? (expressionFaults(computed, names, 'any')[0] ?? null) : null),
    [computed, names],
  )
  const isComputed = computed !== undefined
  const examples = useMemo(() => (isComputed ? formulaExamples(type, names) : []), [isComputed, type, names])
  const set = (formula: string) => onChange((before) => ({ ...before, computed: formula }))
  return (
    <div className="col-span-2">
      <label className="mb-1 flex items-center gap-2 text-sm">
        <input
          type="checkbox"
          checked={isComputed}
          onChange={(event) =>
            onChange((before) => {
              const { computed: _computed, ...rest } = before
              return event.target.checked
                ? { ...rest, required: false, computed: '' }
                : { ...rest, required: true }
            })
          }
        />
        computed
      </label>
      {computed !== undefined && (
        <>
          <ExpressionEditor
            value={computed}
            names={names}
            problem={fault}
            label="Formula"
            placeholder={examples[0] ?? ''}
            onChange={set}
          />
          <Examples examples={examples} onPick={set} />
          {!fault && proof && !inList && (
            <p className="mt-1 text-xs">
              {proof.rowLabel}:{' '}
              <span className="font-semibold">{proof.values[field.name] ?? 'no value'}</span>
            </p>
          )}
        </>
      )}
    </div>
  )
}

/** Formulas that give a type, from the fields there are. */
function formulaExamples(type: FieldType, names: NameTypes): readonly string[] {
  const first = (wanted: string) => [...names].find(([, is]) => is === wanted)?.[0]
  const [number, day, text, flag] = [first('number'), first('date'), first('string'), first('boolean')]
  const shown: Partial<Record<FieldType, readonly (string | undefined | false)[]>> = {
    number: [
      number && `round half up(${number} * 1.5, 2)`,
      number && `if ${number} > 100 then ${number} else 0`,
    ],
    money: [
      number && `round half up(${number} * 1.03, 2)`,
      number && `if ${number} > 80000 then ${number} * 3 / 100 else 0`,
    ],
    percent: [number && `if ${number} > 400 then 5 else 0`],
    date: [
      day && `${day} + duration("P14D")`,
      day && `add business days(${day}, 5)`,
      day && `last day of month(${day})`,
    ],
    text: [
      text && `upper case(${text})`,
      text && `${text} + ", for the season"`,
      number && `in words(${number})`,
    ],
    'yes/no': [number && `${number} > 400`, flag && `not(${flag})`],
  }
  return (shown[type] ?? []).flatMap((example) =>
    example && expressionFaults(example, names, 'any').length === 0 ? [example] : [],
  )
}

/** What a formula may look like; a click takes one to begin with. */
function Examples({
  examples,
  onPick,
}: {
  readonly examples: readonly string[]
  readonly onPick: (formula: string) => void
}) {
  if (examples.length === 0) return null
  return (
    <p className="mt-1 flex flex-wrap gap-x-3 text-xs text-soft">
      such as
      {examples.map((example) => (
        <button
          key={example}
          type="button"
          className="font-mono hover:underline"
          onClick={() => onPick(example)}
        >
          {example}
        </button>
      ))}
    </p>
  )
}
