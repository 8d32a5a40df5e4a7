import * as v from 'valibot'
import type { BlankKind } from '../document/tree.ts'
import { sha256Schema as sha256 } from '../text/sha256.ts'
import { SCRIPTS, STROKE_LIMITS } from './signature.ts'

// What a signer puts into a blank: every kind of value, with its shape. API, database, checks and pages take it from here.

const coordinate = v.pipe(v.number(), v.minValue(-0.1), v.maxValue(1.1))
/** Where a line goes, and how hard the pen pressed there, where it tells. */
const point = v.union([
  v.strictTuple([coordinate, coordinate]),
  v.strictTuple([coordinate, coordinate, v.pipe(v.number(), v.minValue(0), v.maxValue(1))]),
])
/** Of an uploaded picture, in its pixels. */
const pixels = v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(6000))

/** As it comes from a page, and is kept. */
export const filledSchema = v.variant('kind', [
  v.object({
    kind: v.literal('typed'),
    text: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(80)),
    script: v.optional(v.picklist(SCRIPTS)),
  }),
  /** An uploaded picture of a signature, PNG. */
  v.object({ kind: v.literal('picture'), sha256, size: v.number(), width: pixels, height: pixels }),
  /** Strokes in a box 1 wide and so high, y downwards in the same unit. */
  v.object({
    kind: v.literal('drawn'),
    strokes: v.pipe(
      v.array(v.pipe(v.array(point), v.minLength(1), v.maxLength(2000))),
      v.minLength(1),
      v.maxLength(STROKE_LIMITS.strokes),
    ),
    height: v.pipe(v.number(), v.minValue(0.05), v.maxValue(1)),
  }),
  v.object({ kind: v.literal('text'), text: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(500)) }),
  v.object({ kind: v.literal('tick') }),
  /** Places of the chosen options, from 0. */
  v.object({
    kind: v.literal('choice'),
    chosen: v.pipe(v.array(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(40))), v.maxLength(40)),
  }),
  v.object({
    kind: v.literal('file'),
    name: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(200)),
    sha256,
    size: v.number(),
  }),
])

/** The same, and all of its parts, not to be changed. */
type DeepReadonly<T> = T extends readonly (infer E)[]
  ? number extends T['length']
    ? readonly DeepReadonly<E>[]
    : Readonly<T>
  : T extends object
    ? { readonly [K in keyof T]: DeepReadonly<T[K]> }
    : T

/** A value in a blank. */
export type Filled = DeepReadonly<v.InferOutput<typeof filledSchema>>
/** Its kinds. */
export type FilledKind = Filled['kind']

/** What may stand in each kind of blank; a date is filled by the act of signing. */
export const FILLED_BY: Readonly<Record<BlankKind, readonly FilledKind[]>> = {
  signature: ['typed', 'drawn', 'picture'],
  initials: ['typed', 'drawn', 'picture'],
  date: [],
  name: ['text'],
  title: ['text'],
  company: ['text'],
  text: ['text'],
  number: ['text'],
  tick: ['tick'],
  choice: ['choice'],
  file: ['file'],
}
