import { valibotResolver } from '@hookform/resolvers/valibot'
import { useRef } from 'react'
import { type DefaultValues, type FieldValues, type Path, type PathValue, useForm } from 'react-hook-form'
import type * as v from 'valibot'
import { faultsIn, problemText } from '#web/api/problem.ts'

/** What an entry needs to stand in a form: to be given whole to a field of `fields.tsx`. */
export type EntryField = ReturnType<Entry<FieldValues>['at']>

/** A form while it is filled in. */
export interface Entry<I extends FieldValues> {
  /** What a field needs that keeps its own text. */
  at(name: Path<I>): {
    readonly name: string
    readonly ref: (element: unknown) => void
    readonly onChange: (event: { target: unknown; type?: unknown }) => Promise<unknown>
    readonly onBlur: (event: { target: unknown; type?: unknown }) => Promise<unknown>
    /** What is wrong with it, in words; null if nothing is. */
    readonly fault: string | null
  }
  /** What stands in it now; the form is drawn anew as it changes. */
  value<N extends Path<I>>(name: N): PathValue<I, N>
  /** Fills it in from elsewhere: a picker, another entry. */
  set<N extends Path<I>>(name: N, value: PathValue<I, N>): void
  /** Whether anything differs from the start. */
  readonly changed: boolean
  readonly busy: boolean
  /** Why it was refused as a whole; null if it was not. */
  readonly refusal: string | null
  readonly submit: (event: { preventDefault(): void }) => void
  /** Everything as it was at the start. */
  readonly reset: () => void
}

/**
 * The one way a form is filled in and sent. What is entered is checked by `schema`, whose output is sent; what the server refuses of
 * it stands at its field, by the pointers of the problem (RFC 9457), and the rest under the form. Nothing entered is lost by a refusal,
 * and a second submit while one is under way is none.
 */
export function useEntry<I extends FieldValues, O extends FieldValues, A>({
  schema,
  start,
  send,
  onDone,
}: {
  readonly schema: v.GenericSchema<I, O>
  readonly start: I
  readonly send: (entered: O) => Promise<A>
  readonly onDone?: (answer: A, entered: O) => void
}): Entry<I> {
  const form = useForm<I, unknown, O>({
    resolver: valibotResolver<I, unknown, O>(schema, {}, { mode: 'sync' }),
    defaultValues: start as DefaultValues<I>,
  })
  const { errors, isDirty, isSubmitting } = form.formState
  const underway = useRef(false)
  const submitted = form.handleSubmit(async (entered) => {
    if (underway.current) return
    underway.current = true
    try {
      const answer = await send(entered)
      onDone?.(answer, entered)
    } catch (error) {
      const names = new Set(Object.keys(form.getValues()))
      const faults = Object.entries(faultsIn(error)).filter(([at]) => names.has(at.split('/')[0] ?? ''))
      for (const [at, message] of faults) form.setError(at.replaceAll('/', '.') as Path<I>, { message })
      if (faults.length === 0) form.setError('root', { message: problemText(error) })
    } finally {
      underway.current = false
    }
  })
  return {
    at: (name) => ({
      ...form.register(name),
      fault: form.getFieldState(name, form.formState).error?.message ?? null,
    }),
    value: (name) => form.watch(name),
    set: (name, value) =>
      form.setValue(name, value, { shouldDirty: true, shouldValidate: form.formState.isSubmitted }),
    changed: isDirty,
    busy: isSubmitting,
    refusal: errors.root?.message ?? null,
    submit: (event) => {
      event.preventDefault()
      void submitted()
    },
    reset: () => form.reset(),
  }
}
