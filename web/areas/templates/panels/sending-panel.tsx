import { useState } from 'react'
import { NOTICE_FORMS, type SendingDefaults } from '#core/document/template.ts'
import { fill } from '#core/merge/fill.ts'
import { patternNames } from '#core/text/pattern.ts'
import { Input, Labelled, TextArea } from '#web/parts/input.tsx'
import { useReadyTemplate, useStudio } from '#web/areas/templates/draft/studio-context.ts'

const numbers = (text: string): readonly number[] =>
  [...new Set(text.split(/[\s,;]+/).map(Number))]
    .filter((day) => Number.isInteger(day) && day >= 0 && day <= 365)
    .sort((a, b) => a - b)

/** What an agreement is called, what its mail says, until when it is to be signed, who is reminded and who gets a copy. */
export function SendingPanel() {
  const { content, editable, change, all, proof } = useStudio()
  const ready = useReadyTemplate()
  const { sending } = content
  const set = (next: Partial<SendingDefaults>) =>
    change(
      (before) => ({ ...before, sending: { ...before.sending, ...next } }),
      `sending ${Object.keys(next).join()}`,
    )
  const known = new Set([...all.map(({ name }) => name), 'number'])
  const hint = (pattern: string) => {
    const unknown = patternNames(pattern).filter((name) => !known.has(name))
    if (unknown.length) return `There is no field ${unknown.join(', ')}`
    return ready && proof ? fill(ready, proof.data, pattern, 'A-0000') : undefined
  }
  const pattern = (label: string, key: 'agreementName' | 'fileName' | 'subject') => (
    <Labelled label={label} hint={hint(sending[key])}>
      <Input value={sending[key]} onChange={(event) => set({ [key]: event.target.value })} />
    </Labelled>
  )
  return (
    <fieldset disabled={!editable} className="flex min-h-0 max-w-2xl flex-col gap-4 overflow-auto p-5">
      <Labelled label="Recipients">
        <select
          className="w-full rounded-sm border border-hair bg-sheet px-2 py-1.5 text-sm"
          value={sending.notice ?? ''}
          onChange={(event) =>
            set({ notice: NOTICE_FORMS.find((form) => form === event.target.value) ?? null })
          }
        >
          <option value="">signs it</option>
          <option value="attachment">only receives it: its pages attached to a mail</option>
          <option value="mail text">only receives it: its words are the mail</option>
        </select>
      </Labelled>
      {pattern('Agreement name', 'agreementName')}
      {pattern('File name', 'fileName')}
      {pattern('Subject of the mail', 'subject')}
      <Labelled label="Message" hint={hint(sending.message)}>
        <TextArea
          rows={4}
          value={sending.message}
          onChange={(event) => set({ message: event.target.value })}
        />
      </Labelled>
      <div className="grid grid-cols-3 gap-4">
        <Labelled label="To be signed within" hint="days from sending">
          <Input
            type="number"
            min={1}
            max={365}
            value={sending.signByDays}
            onChange={(event) =>
              set({ signByDays: Math.max(1, Math.min(365, Math.round(Number(event.target.value)) || 1)) })
            }
          />
        </Labelled>
        <Days
          label="Remind after"
          hint="days from sending"
          days={sending.remindAfter ?? []}
          onChange={(remindAfter) => set({ remindAfter })}
        />
        <Days
          label="Remind before the end"
          hint="days before the last day"
          days={sending.remindBefore ?? []}
          onChange={(remindBefore) => set({ remindBefore })}
        />
      </div>
      <Labelled
        label="Copies of the executed document"
        hint="email addresses or fields in braces, one on each line"
      >
        <TextArea
          rows={2}
          value={(sending.copies ?? []).join('\n')}
          onChange={(event) => set({ copies: event.target.value.split('\n') })}
          onBlur={() => set({ copies: (sending.copies ?? []).map((each) => each.trim()).filter(Boolean) })}
        />
      </Labelled>
      <p className="text-sm text-soft">
        Signing order is set with the roles: equal numbers sign side by side.
      </p>
    </fieldset>
  )
}

function Days({
  label,
  hint,
  days,
  onChange,
}: {
  readonly label: string
  readonly hint: string
  readonly days: readonly number[]
  readonly onChange: (days: readonly number[]) => void
}) {
  const [text, setText] = useState(days.join(', '))
  return (
    <Labelled label={label} hint={hint}>
      <Input
        value={text}
        placeholder="5, 10"
        onChange={(event) => {
          setText(event.target.value)
          onChange(numbers(event.target.value))
        }}
        onBlur={() => setText(days.join(', '))}
      />
    </Labelled>
  )
}
