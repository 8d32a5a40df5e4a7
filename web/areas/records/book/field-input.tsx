import { isNumeric } from '#core/outline/field-kinds.ts'
import type { KeyboardEvent } from 'react'
import { type Field } from '#core/outline/field.ts'
import { inputType } from '#web/parts/input-type.ts'

interface Props {
  readonly field: Field
  readonly label: string
  readonly value: string
  readonly autoFocus?: boolean
  readonly disabled?: boolean
  readonly invalid?: boolean
  readonly onChange: (value: string) => void
  readonly onBlur?: () => void
  readonly onKeyDown?: (event: KeyboardEvent) => void
}

const look =
  'w-full rounded-sm border border-hair bg-sheet px-1.5 py-0.5 text-sm aria-invalid:border-brick disabled:opacity-60'

/** The place to enter one value of a field, by its type. */
export function FieldInput({ field, label, value, invalid = false, onChange, ...rest }: Props) {
  const choices = field.choices ?? (field.type === 'yes/no' ? ['yes', 'no'] : null)
  if (choices)
    return (
      <select
        aria-label={label}
        aria-invalid={invalid}
        className={look}
        value={field.type === 'yes/no' ? asYesNo(value) : value}
        onChange={(event) => onChange(event.target.value)}
        {...rest}
      >
        <option value=""></option>
        {choices.map((choice) => (
          <option key={choice}>{choice}</option>
        ))}
      </select>
    )
  if (field.type === 'long text')
    return (
      <textarea
        aria-label={label}
        aria-invalid={invalid}
        className={look}
        rows={3}
        value={value}
        onChange={(event) => onChange(event.target.value)}
        disabled={rest.disabled}
      />
    )
  return (
    <input
      aria-label={label}
      aria-invalid={invalid}
      className={`${look} ${isNumeric(field.type) ? 'text-right tabular-nums' : ''}`}
      type={inputType(field.type)}
      inputMode={isNumeric(field.type) ? 'decimal' : undefined}
      value={value}
      onChange={(event) => onChange(event.target.value)}
      {...rest}
    />
  )
}

const asYesNo = (value: string) => (value === 'true' ? 'yes' : value === 'false' ? 'no' : value)
