import type { ReactNode } from 'react'
import type { FieldValues } from 'react-hook-form'
import { Button } from '#web/parts/button.tsx'
import type { Entry } from './use-entry.ts'

/** Why a form was refused as a whole. */
export const Refusal = <I extends FieldValues>({
  entry: { refusal },
  className = '',
}: {
  readonly entry: Pick<Entry<I>, 'refusal'>
  readonly className?: string
}) =>
  refusal && (
    <p role="alert" className={`text-sm text-brick ${className}`}>
      {refusal}
    </p>
  )

/** A form with its end: what was refused, a way out if there is one, and what it is for. */
export function Form<I extends FieldValues>({
  entry,
  submit,
  label,
  disabled = false,
  kind = 'main',
  layout = 'column',
  onClose,
  className = '',
  children,
}: {
  readonly entry: Pick<Entry<I>, 'submit' | 'busy' | 'refusal'>
  /** What the button says: a verb and its object. */
  readonly submit: string
  /** What the form is called, if it stands in no window of its own. */
  readonly label?: string
  readonly disabled?: boolean
  /** `danger`: what it does cannot be taken back. */
  readonly kind?: 'main' | 'danger'
  /** `row`: fields and button beside each other, as far as there is room. */
  readonly layout?: 'column' | 'row'
  readonly onClose?: () => void
  readonly className?: string
  readonly children: ReactNode
}) {
  return (
    <form
      noValidate
      aria-label={label}
      className={`flex gap-4 ${layout === 'row' ? 'flex-wrap items-end' : 'flex-col'} ${className}`}
      onSubmit={entry.submit}
    >
      {children}
      <Refusal entry={entry} />
      <div className="flex justify-end gap-2">
        {onClose && <Button onClick={onClose}>Cancel</Button>}
        <Button kind={kind} type="submit" busy={entry.busy} disabled={disabled}>
          {submit}
        </Button>
      </div>
    </form>
  )
}
