import { X } from 'lucide-react'
import { useMemo } from 'react'
import { type Field, nameTypes } from '#core/outline/field.ts'
import * as edit from '#core/intake/edit.ts'
import { areAlike, type IntakeForm, type Question, questionsOf, textKey } from '#core/intake/form.ts'
import { Button } from '#web/parts/button.tsx'
import { ConditionEditor, useCondition } from '#web/parts/expressions/condition-editor.tsx'
import { Input, Labelled, Select } from '#web/parts/input.tsx'
import type { FormDraft } from './open-drafts.ts'
import { TextOf, type Texts } from './texts.tsx'

/** One question in full: its words in a language, what may be answered, and when it is asked. */
export function QuestionForm({
  question,
  form,
  outline,
  texts,
  draft,
  editable,
  problem,
  onClose,
}: {
  readonly question: Question
  readonly form: IntakeForm
  readonly outline: readonly Field[]
  readonly texts: Texts
  readonly draft: FormDraft
  readonly editable: boolean
  readonly problem: string | null
  readonly onClose: () => void
}) {
  const { id, kind } = question
  const field = outline.find(({ name }) => name === id)
  const set = (change: Partial<Question>, place = '') =>
    draft.change((before) => edit.withQuestion(before, id, change), place && `${id} ${place}`)
  const own = texts.language === form.language
  return (
    <section aria-label={question.label}>
      <div className="flex items-baseline gap-3">
        <h2 className="min-w-0 flex-1 truncate font-serif text-lg font-semibold">{question.label}</h2>
        <button className="p-1 text-soft hover:text-ink" aria-label="Close" onClick={onClose}>
          <X size={16} />
        </button>
      </div>
      <p className="text-xs text-soft">
        {kind === 'file' ? (
          'files, kept with the response and the record'
        ) : field ? (
          <>
            <code>{id}</code>, {field.type}
            {field.choices ? `: ${field.choices.join(', ')}` : ''}
          </>
        ) : (
          'the templates no longer have this field'
        )}
      </p>
      {problem && <p className="mt-2 border-l-2 border-brick pl-3 text-sm">{problem}</p>}
      <fieldset disabled={!editable} className="mt-3 flex flex-col gap-3">
        <TextOf
          texts={texts}
          label="Question"
          name={textKey.label(id)}
          own={question.label}
          most={300}
          set={(label) => (before) => edit.withQuestion(before, id, { label })}
        />
        <TextOf
          texts={texts}
          label="Help text"
          name={textKey.help(id)}
          own={question.help}
          most={4000}
          lines={2}
          set={(help) => (before) => edit.withQuestion(before, id, { help })}
        />
        {own && <Rules {...{ question, field, form, outline, draft, set }} />}
        {question.check?.trim() && (
          <TextOf
            texts={texts}
            label="Error message"
            hint="Empty: the page says that the answer does not fit the others."
            name={textKey.says(id)}
            own={question.says ?? ''}
            most={300}
            set={(says) => (before) => edit.withQuestion(before, id, { says })}
          />
        )}
      </fieldset>
    </section>
  )
}

/** What may be answered and when it is asked: the same in every language. */
function Rules({
  question,
  field,
  form,
  outline,
  draft,
  set,
}: {
  readonly question: Question
  readonly field: Field | undefined
  readonly form: IntakeForm
  readonly outline: readonly Field[]
  readonly draft: FormDraft
  readonly set: (change: Partial<Question>, place?: string) => void
}) {
  const { id, kind } = question
  return (
    <>
      <label className="flex items-center gap-2 text-sm">
        <input
          type="checkbox"
          checked={question.required}
          onChange={(event) => set({ required: event.target.checked })}
        />
        Required
      </label>
      {kind === 'value' && field?.type !== 'list' && (
        <div className="grid grid-cols-2 gap-3">
          <Labelled label="Example">
            <Input
              value={question.example}
              maxLength={300}
              onChange={(event) => set({ example: event.target.value }, 'example')}
            />
          </Labelled>
          <Labelled label="Default">
            <Input
              value={question.default}
              maxLength={4000}
              onChange={(event) => set({ default: event.target.value }, 'default')}
            />
          </Labelled>
        </div>
      )}
      {kind === 'value' && field && (
        <Also question={question} field={field} form={form} outline={outline} draft={draft} />
      )}
      <When
        key={id}
        question={question}
        form={form}
        outline={outline}
        onChange={(when) => set({ when }, 'when')}
      />
      {kind === 'value' && field?.type !== 'list' && (
        <Check
          key={`${id} check`}
          question={question}
          form={form}
          outline={outline}
          onChange={(check) => set({ check }, 'check')}
        />
      )}
      <p>
        <Button kind="quiet" onClick={() => draft.change((before) => edit.splitPage(before, id))}>
          Start a new page here
        </Button>
      </p>
    </>
  )
}

/** Fields of other templates that are the same thing. */
function Also({
  question,
  field,
  form,
  outline,
  draft,
}: {
  readonly question: Question
  readonly field: Field
  readonly form: IntakeForm
  readonly outline: readonly Field[]
  readonly draft: FormDraft
}) {
  const set = (name: string, on: boolean) =>
    draft.change((before) => edit.alsoFills(before, question.id, name, on))
  const taken = new Set(questionsOf(form).flatMap(({ also }) => also))
  const others = outline.filter(
    ({ name, type, computed }) =>
      name !== question.id && areAlike(type, field.type) && computed === undefined && !taken.has(name),
  )
  if (others.length === 0 && question.also.length === 0) return null
  const labelOf = (name: string) => `${outline.find((each) => each.name === name)?.label ?? ''} (${name})`
  return (
    <div role="group" aria-label="Also fills">
      <p className="mb-1 text-sm font-semibold">Also fills</p>
      <ul className="text-sm">
        {question.also.map((name) => (
          <li key={name} className="flex items-center gap-2 border-b border-hair/60 py-0.5">
            <span className="min-w-0 flex-1 truncate">{labelOf(name)}</span>
            <button
              type="button"
              className="p-1 text-soft hover:text-ink"
              aria-label={`Do not fill ${labelOf(name)}`}
              onClick={() => set(name, false)}
            >
              <X size={14} />
            </button>
          </li>
        ))}
      </ul>
      {others.length > 0 && (
        <Select
          aria-label="Add another field"
          value=""
          onChange={(event) => event.target.value && set(event.target.value, true)}
        >
          <option value="">Add a field …</option>
          {others.map(({ name }) => (
            <option key={name} value={name}>
              {labelOf(name)}
            </option>
          ))}
        </Select>
      )}
    </div>
  )
}

interface ConditionProps {
  readonly question: Question
  readonly form: IntakeForm
  readonly outline: readonly Field[]
  readonly onChange: (text: string) => void
}

/** When it is asked: a condition over what is answered before it. */
function When({ question, form, outline, onChange }: ConditionProps) {
  const fields = useFieldsTo(question, form, outline, false)
  if (fields.length === 0) return <p className="text-xs text-soft">The first question is always asked.</p>
  return (
    <Condition
      title="Ask only if"
      placeholder="always"
      text={question.when}
      fields={fields}
      onChange={onChange}
    />
  )
}

/** What has to hold of the answer, over it and what is answered before it. */
function Check({ question, form, outline, onChange }: ConditionProps) {
  const fields = useFieldsTo(question, form, outline, true)
  return (
    <Condition
      title="Accept the answer only if"
      placeholder={`any; such as ${question.id} >= …`}
      text={question.check ?? ''}
      fields={fields}
      onChange={onChange}
    />
  )
}

/** Fields that are answered before a question, and its own where `own` says so. */
function useFieldsTo(question: Question, form: IntakeForm, outline: readonly Field[], own: boolean) {
  return useMemo(() => {
    const all = questionsOf(form).map(({ id }) => id)
    const upTo = new Set(all.slice(0, all.indexOf(question.id) + Number(own)))
    return outline.filter(({ name, type }) => upTo.has(name) && type !== 'list')
  }, [form, outline, question.id, own])
}

function Condition({
  title,
  placeholder,
  text,
  fields,
  onChange,
}: {
  readonly title: string
  readonly placeholder: string
  readonly text: string
  readonly fields: readonly Field[]
  readonly onChange: (text: string) => void
}) {
  const names = useMemo(() => nameTypes(fields), [fields])
  const condition = useCondition(text, fields, names)
  const set = (next: string) => {
    condition.setText(next)
    onChange(next)
  }
  return (
    <div role="group" aria-label={title}>
      <p className="mb-1 text-sm font-semibold">{title}</p>
      <ConditionEditor
        condition={{ ...condition, setText: set as never }}
        label={title}
        placeholder={placeholder}
        onEnter={() => undefined}
      />
    </div>
  )
}
