import {
  type InputHTMLAttributes,
  type ReactNode,
  type SelectHTMLAttributes,
  type TextareaHTMLAttributes,
  useId,
} from 'react'
import { Input, Select, TextArea } from '#web/parts/input.tsx'
import type { EntryField } from './use-entry.ts'

interface Said {
  readonly label: string
  readonly hint?: string | undefined
}

/** The names of one field's parts, so that its hint and what is wrong are read out with it and not as its name. */
interface Parts {
  readonly id: string
  readonly 'aria-describedby': string | undefined
  readonly 'aria-invalid': boolean
}

/** A label, what is entered, a hint, and what is wrong: of every field of every form. */
export function Field({
  label,
  hint,
  fault = null,
  children,
}: Said & { readonly fault?: string | null; readonly children: (parts: Parts) => ReactNode }) {
  const id = useId()
  const described = [hint && `${id}-hint`, fault && `${id}-fault`].filter(Boolean).join(' ')
  return (
    <div>
      <label htmlFor={id} className="mb-1 block text-sm font-semibold">
        {label}
      </label>
      {children({ id, 'aria-describedby': described || undefined, 'aria-invalid': fault !== null })}
      {fault && (
        <span id={`${id}-fault`} role="alert" className="mt-1 block text-xs text-brick">
          {fault}
        </span>
      )}
      {hint && (
        <span id={`${id}-hint`} className="mt-1 block text-xs text-soft">
          {hint}
        </span>
      )}
    </div>
  )
}

type Own<A> = Omit<A, 'name' | 'onChange' | 'onBlur' | 'value'>

/** A line of text, a number, a date. */
export const TextField = ({
  label,
  hint,
  of: { fault, ...register },
  ...rest
}: Said & { readonly of: EntryField } & Own<InputHTMLAttributes<HTMLInputElement>>) => (
  <Field label={label} hint={hint} fault={fault}>
    {(parts) => <Input {...rest} {...parts} {...register} />}
  </Field>
)

/** Several lines of text. */
export const LinesField = ({
  label,
  hint,
  of: { fault, ...register },
  ...rest
}: Said & { readonly of: EntryField } & Own<TextareaHTMLAttributes<HTMLTextAreaElement>>) => (
  <Field label={label} hint={hint} fault={fault}>
    {(parts) => <TextArea rows={3} {...rest} {...parts} {...register} />}
  </Field>
)

/** One of a list: its value, and what it is called. */
export type Option = readonly [value: string, said: string]

/** A choice of a list. */
export const SelectField = ({
  label,
  hint,
  options,
  of: { fault, ...register },
  ...rest
}: Said & { readonly of: EntryField; readonly options: readonly Option[] } & Own<
    SelectHTMLAttributes<HTMLSelectElement>
  >) => (
  <Field label={label} hint={hint} fault={fault}>
    {(parts) => (
      // What is chosen is put in again once the list is there, which may come later than the form.
      <Select key={options.map(([value]) => value).join()} {...rest} {...parts} {...register}>
        {options.map(([value, said]) => (
          <option key={value} value={value}>
            {said}
          </option>
        ))}
      </Select>
    )}
  </Field>
)

/** One of a few, all of them seen. */
export const RadioField = ({
  options,
  of: { fault, ...register },
}: {
  readonly of: EntryField
  readonly options: readonly Option[]
}) => (
  <>
    {options.map(([value, said]) => (
      <label key={value} className="flex items-baseline gap-2 text-sm">
        <input type="radio" value={value} {...register} />
        {said}
      </label>
    ))}
    {fault && (
      <span role="alert" className="text-xs text-brick">
        {fault}
      </span>
    )}
  </>
)
