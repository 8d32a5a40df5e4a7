import { type ReactNode, useMemo } from 'react'
import { DELAY_UNITS, MOMENTS, momentsOf, type Step } from '#core/next-steps/steps.ts'
import { nameTypes } from '#core/outline/field.ts'
import { ConditionEditor, useCondition } from '#web/parts/expressions/condition-editor.tsx'
import { Input, Labelled, Select, TextArea } from '#web/parts/input.tsx'
import { Choice, NextDocument, Pattern, RecordChange, type Props } from './step-parts.tsx'

/** One step: what it does, when, on what condition, and who is told if it fails. */
export function StepForm({ step, list, editable, onChange }: Props & { readonly editable: boolean }) {
  const { choices } = list
  const set = (change: Partial<Step>) => onChange({ ...step, ...change } as Step)
  return (
    <section aria-label={step.kind}>
      <h2 className="font-serif text-lg font-semibold first-letter:capitalize">{step.kind}</h2>
      <fieldset disabled={!editable} className="mt-3 flex flex-col gap-3 text-sm">
        <Kind step={step} list={list} onChange={onChange} />
        <div className="grid grid-cols-[1fr_5rem_9rem] items-end gap-2">
          <Labelled label="When">
            <Select
              value={step.on}
              onChange={(event) => {
                const on = MOMENTS.find((each) => each === event.target.value)!
                // What their system is told follows the moment, unless it was worded otherwise.
                onChange(
                  step.kind === 'tell the customer system' && step.status === step.on
                    ? { ...step, on, status: on }
                    : { ...step, on },
                )
              }}
            >
              {MOMENTS.filter((each) => each === step.on || momentsOf(list.notice).includes(each)).map(
                (each) => (
                  <option key={each}>{each}</option>
                ),
              )}
            </Select>
          </Labelled>
          <Labelled label="and then">
            <Input
              type="number"
              min={0}
              max={3650}
              value={step.delay.count}
              onChange={(event) =>
                set({ delay: { ...step.delay, count: Math.max(0, Math.trunc(Number(event.target.value))) } })
              }
            />
          </Labelled>
          <Select
            aria-label="Unit"
            value={step.delay.unit}
            onChange={(event) =>
              set({
                delay: { ...step.delay, unit: DELAY_UNITS.find((each) => each === event.target.value)! },
              })
            }
          >
            {DELAY_UNITS.map((each) => (
              <option key={each} value={each}>
                {each} later
              </option>
            ))}
          </Select>
        </div>
        <Only step={step} list={list} onChange={onChange} />
        <Choice
          label="Who is told if it fails"
          value={step.tell}
          options={choices.people}
          onChange={(tell) => set({ tell })}
        />
      </fieldset>
    </section>
  )
}

function Only({ step, list, onChange }: Props) {
  const fields = useMemo(() => list.outline.filter(({ type }) => type !== 'list'), [list.outline])
  const names = useMemo(() => nameTypes(list.outline), [list.outline])
  const condition = useCondition(step.when, fields, names)
  const setText: typeof condition.setText = (text) => {
    condition.setText(text)
    if (typeof text === 'string') onChange({ ...step, when: text })
  }
  return (
    <div role="group" aria-label="Only if">
      <p className="mb-1 font-semibold">Only if</p>
      <ConditionEditor
        condition={{ ...condition, setText }}
        label="Condition"
        placeholder="always"
        onEnter={() => undefined}
      />
    </div>
  )
}

function Kind({ step, list, onChange }: Props): ReactNode {
  const { choices } = list
  switch (step.kind) {
    case 'file to the record':
      return (
        <Pattern label="Under the name" value={step.name} onChange={(name) => onChange({ ...step, name })} />
      )
    case 'file to a folder':
      return (
        <>
          <Choice
            label="Folder"
            value={step.folder}
            options={choices.folders}
            none="There is none yet: the settings have them under “Programs”."
            onChange={(folder) => onChange({ ...step, folder })}
          />
          <Pattern
            label="Under the name, with / between folders"
            value={step.name}
            onChange={(name) => onChange({ ...step, name })}
          />
        </>
      )
    case 'mail':
      return (
        <>
          <Pattern label="To" value={step.to} onChange={(to) => onChange({ ...step, to })} />
          <Pattern
            label="Subject"
            value={step.subject}
            onChange={(subject) => onChange({ ...step, subject })}
          />
          <Labelled label="Text">
            <TextArea
              rows={4}
              maxLength={5000}
              value={step.text}
              onChange={(event) => onChange({ ...step, text: event.target.value })}
            />
          </Labelled>
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={step.attach}
              onChange={(event) => onChange({ ...step, attach: event.target.checked })}
            />
            with the document
          </label>
        </>
      )
    case 'tell a program':
      return (
        <Choice
          label="Program"
          value={step.program}
          options={choices.programs}
          none="There is none yet: the settings have them under “Programs”."
          onChange={(program) => onChange({ ...step, program })}
        />
      )
    case 'tell the customer system':
      return (
        <>
          <Pattern
            label="Status that its record gets there"
            value={step.status}
            onChange={(status) => onChange({ ...step, status })}
          />
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={step.link}
              onChange={(event) => onChange({ ...step, link: event.target.checked })}
            />
            with a link to the agreement
          </label>
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={step.file}
              onChange={(event) => onChange({ ...step, file: event.target.checked })}
            />
            with the document
          </label>
        </>
      )
    case 'follow-up':
      return (
        <>
          <Choice
            label="Who"
            value={step.person}
            options={choices.people}
            onChange={(person) => onChange({ ...step, person })}
          />
          <Pattern
            label="What is to be done"
            value={step.text}
            onChange={(text) => onChange({ ...step, text })}
          />
          <Labelled label="Days until it is due">
            <Input
              type="number"
              min={0}
              max={3650}
              value={step.days}
              onChange={(event) =>
                onChange({ ...step, days: Math.max(0, Math.trunc(Number(event.target.value))) })
              }
            />
          </Labelled>
        </>
      )
    case 'change the record':
      return <RecordChange step={step} list={list} onChange={onChange} />
    case 'next document':
      return <NextDocument step={step} list={list} onChange={onChange} />
  }
}
