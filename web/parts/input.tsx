import type { InputHTMLAttributes, ReactNode, Ref, SelectHTMLAttributes, TextareaHTMLAttributes } from 'react'

const look = 'w-full rounded-sm border border-hair bg-sheet px-2 py-1 text-sm aria-invalid:border-brick'

/** A line to write in. */
export const Input = ({
  ref,
  className = '',
  ...rest
}: InputHTMLAttributes<HTMLInputElement> & { readonly ref?: Ref<HTMLInputElement> }) => (
  <input ref={ref} className={`${look} ${className}`} {...rest} />
)

/** Several lines to write in. */
export const TextArea = ({
  ref,
  className = '',
  ...rest
}: TextareaHTMLAttributes<HTMLTextAreaElement> & { readonly ref?: Ref<HTMLTextAreaElement> }) => (
  <textarea ref={ref} className={`${look} ${className}`} {...rest} />
)

/** A choice of a list. */
export const Select = ({
  ref,
  className = '',
  ...rest
}: SelectHTMLAttributes<HTMLSelectElement> & { readonly ref?: Ref<HTMLSelectElement> }) => (
  <select ref={ref} className={`max-w-full ${look} ${className}`} {...rest} />
)

/** A place to write in under its label, with a hint below. */
export function Labelled({
  label,
  hint,
  children,
}: {
  readonly label: string
  readonly hint?: string | undefined
  readonly children: ReactNode
}) {
  return (
    <label className="block">
      <span className="mb-1 block text-sm font-semibold">{label}</span>
      {children}
      {hint && <span className="mt-1 block text-xs text-soft">{hint}</span>}
    </label>
  )
}
