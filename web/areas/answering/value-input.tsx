import { inputType } from '#web/parts/input-type.ts'
import { isNumeric } from '#core/outline/field-kinds.ts'
import { readPlain } from '#core/intake/answers.ts'
import { describeValue } from '#core/intake/describe.ts'
import { type Field } from '#core/outline/field.ts'
import { FIELD } from '#web/areas/signing/sheet.tsx'
import { useWords } from '#web/areas/signing/words.tsx'
import { isFew } from './question-props.ts'

type Plain = string | boolean

/** What its own keyboard or picker a type has, beyond those of entries everywhere. */
const KINDS: Partial<Record<Field['type'], string>> = { email: 'email', phone: 'tel' }

/** One value, by its type; what is understood of a number is said beside it. */
export function ValueInput({
  id,
  field,
  label,
  example = '',
  described,
  value,
  problem,
  onValue,
}: {
  readonly id: string
  readonly field: Field
  readonly label: string
  readonly example?: string
  readonly described?: string | undefined
  readonly value: Plain | undefined
  readonly problem: string | null
  readonly onValue: (value: Plain | null) => void
}) {
  const { say } = useWords()
  const text = typeof value === 'string' ? value : ''
  const shared = {
    id,
    'aria-invalid': problem !== null,
    'aria-describedby': problem !== null ? `${id}-problem` : described,
    className: FIELD,
  }
  if (field.type === 'yes/no')
    return (
      <Choices
        id={id}
        label={label}
        invalid={problem !== null}
        options={[
          ['yes', say('form.yes')],
          ['no', say('form.no')],
        ]}
        chosen={value === true ? 'yes' : value === false ? 'no' : text}
        onChoose={(chosen) => onValue(chosen === 'yes')}
      />
    )
  if (field.type === 'choice' && isFew(field))
    return (
      <Choices
        id={id}
        label={label}
        invalid={problem !== null}
        options={(field.choices ?? []).map((each) => [each, each])}
        chosen={text}
        onChoose={onValue}
      />
    )
  if (field.type === 'choice')
    return (
      <select {...shared} value={text} onChange={(event) => onValue(event.target.value || null)}>
        <option value="">{say('form.choose')}</option>
        {(field.choices ?? []).map((each) => (
          <option key={each}>{each}</option>
        ))}
      </select>
    )
  const hint = example ? say('form.example', { example }) : undefined
  if (field.type === 'long text' || field.type === 'address')
    return (
      <textarea
        {...shared}
        rows={field.type === 'address' ? 3 : 5}
        placeholder={hint}
        autoComplete={field.type === 'address' ? 'street-address' : 'off'}
        value={text}
        onChange={(event) => onValue(event.target.value || null)}
      />
    )
  const numeric = isNumeric(field.type)
  return (
    <>
      <div className="flex items-baseline gap-2">
        <input
          {...shared}
          type={KINDS[field.type] ?? inputType(field.type)}
          inputMode={numeric ? 'decimal' : undefined}
          autoComplete={field.type === 'email' ? 'email' : field.type === 'phone' ? 'tel' : 'on'}
          placeholder={inputType(field.type) === 'text' ? hint : undefined}
          value={text}
          onChange={(event) => onValue(event.target.value || null)}
        />
        {field.type === 'percent' && <span>%</span>}
        {field.type === 'money' && <span className="text-sm text-soft">{field.currency ?? 'USD'}</span>}
      </div>
      {numeric && <Understood field={field} text={text} />}
    </>
  )
}

/** A comma is a thousand to one reader and a decimal to another: what it was read as is said. */
function Understood({ field, text }: { readonly field: Field; readonly text: string }) {
  const { say, language } = useWords()
  if (text.trim() === '' || /^\d{1,3}$/.test(text.trim())) return null
  const { value } = readPlain(field, text, { say, language })
  return value === null ? null : (
    <p className="mt-0.5 text-sm text-soft">
      {say('form.read', { value: describeValue(field, value, { say, language }) })}
    </p>
  )
}

/** A few things to choose of, each large enough for a thumb. */
function Choices({
  id,
  label,
  invalid,
  options,
  chosen,
  onChoose,
}: {
  readonly id: string
  readonly label: string
  readonly invalid: boolean
  readonly options: readonly (readonly [value: string, said: string])[]
  readonly chosen: string
  readonly onChoose: (value: string) => void
}) {
  return (
    <div role="radiogroup" aria-label={label} className="flex flex-col">
      {options.map(([value, said], i) => (
        <label key={value} className="flex min-h-11 items-center gap-3 text-[1.0625rem]">
          <input
            type="radio"
            name={id}
            className="size-5 shrink-0 accent-petrol"
            aria-invalid={invalid && i === 0}
            checked={chosen.toLowerCase() === value.toLowerCase()}
            onChange={() => onChoose(value)}
          />
          {said}
        </label>
      ))}
    </div>
  )
}
