import type { StepKind, StepOf } from '#core/next-steps/steps.ts'
import type { Context } from '#core/expression/values/value.ts'
import { type Bundle, fillBundle } from '#core/packet/bundle.ts'
import type { Actor } from '#server/app/actor.ts'
import type { App, Work } from '#server/app/app.ts'
import type { Single } from '#server/services/making/make-claimed.ts'
import type { agreement } from '#server/db/schema.ts'

/** All that a step may look at. */
export interface Following<K extends StepKind = StepKind> {
  /** Of this step of this agreement: names what it does, so that doing it again is the same. */
  readonly id: string
  readonly step: StepOf<K>
  readonly row: typeof agreement.$inferSelect
  readonly bundle: Bundle
  /** The agreement's values, computed ones included. */
  readonly context: Context
  /** The document as it stands: once it is executed, the sealed file. */
  readonly file: { readonly sha256: string; readonly size: number }
  /** In whose name it is done: whoever had it done again, or sent the agreement, or made it. */
  readonly by: Actor
  /** When its moment came. */
  readonly at: Date
}

/** What came of it, in a few words; and a document, where it made one. */
export interface Came {
  readonly said: string
  readonly made?: string
}

/** An agreement that a step makes, and whether it goes out at once. */
export interface Making {
  readonly single: Single
  readonly said: string
  readonly send: boolean
}

/**
 * How a kind of step is done. `outside` reaches another machine and may be done twice with no more effect; `inside` is done in
 * the transaction that also ends the step; `makes` tells of an agreement that is kept in that transaction. A Refusal says why it
 * cannot be done at all; anything else is tried again.
 */
export type Doing<K extends StepKind> =
  | { readonly outside: (app: App, following: Following<K>) => Promise<Came> }
  | { readonly inside: (work: Work, following: Following<K>) => Promise<Came> }
  | { readonly makes: (app: App, following: Following<K>) => Promise<Making> }

/** A text of a step with the agreement's values in its merge fields. */
export const filled = ({ bundle, row }: Pick<Following, 'bundle' | 'row'>, pattern: string): string =>
  fillBundle(bundle, row.data, pattern, row.number)
