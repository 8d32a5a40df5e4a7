import type * as v from 'valibot'
import type { Right } from './person.ts'
import type { Scope } from './scope.ts'

/** Who may call: nobody signed in, anyone signed in, a holder of a right, a bearer of a signing link, or a program by its key. */
export type Access =
  'anyone' | 'person' | 'signing link' | { readonly right: Right } | { readonly scope: Scope }

/** `Content-Type`s answered instead of JSON. */
export type BinaryType =
  | 'application/pdf'
  | 'application/zip'
  | 'application/vnd.openxmlformats-officedocument.wordprocessingml.document'
  | 'text/event-stream'
  | 'application/octet-stream'
  | 'application/timestamp-reply'

/** The scope that a key has to have; null: the route is not for programs. */
export const scopeOf = (access: Access): Scope | null =>
  typeof access === 'object' && 'scope' in access ? access.scope : null

type Schema = v.GenericSchema

/** One route of the API: how it is called, who may, what goes in and comes out. */
export interface Route<
  P extends Schema = Schema,
  Q extends Schema = Schema,
  B extends Schema = Schema,
  A extends Schema | BinaryType = Schema | BinaryType,
> {
  readonly method: 'GET' | 'POST' | 'PUT' | 'DELETE'
  /** Below /api, with `:name` parameters. */
  readonly path: string
  readonly summary: string
  readonly access: Access
  readonly params?: P
  readonly query?: Q
  readonly body?: B
  /** The body is the file itself, not JSON. */
  readonly upload?: true
  /** Bytes that an upload may have; none: as many as a sheet. */
  readonly limit?: number
  /**
   * Of a route that writes: whose answers may say something else afterwards, by their names. Whoever calls it reads
   * those anew; a question asked by POST renews nothing.
   */
  readonly renews?: 'everything' | readonly string[]
  readonly answer: A
  /** What it is answered with where that is not 200. */
  readonly status?: 202
  /** Takes an `Idempotency-Key`: the same one again does nothing more and has the same answer. */
  readonly idempotent?: true
  /** For whoever reads the description. */
  readonly example?: { readonly body?: unknown; readonly answer?: unknown }
}

/** Keeps each schema's type for callers and handlers. */
export const route = <
  const P extends Schema,
  const Q extends Schema,
  const B extends Schema,
  const A extends Schema | BinaryType,
>(
  made: Route<P, Q, B, A>,
): Route<P, Q, B, A> => made

type Output<S> = S extends Schema ? v.InferOutput<S> : undefined
type Input<S> = S extends Schema ? v.InferInput<S> : undefined

/** What the parts of a route need and give, by the route. */
export type Params<R> = R extends Route<infer P, Schema, Schema, Schema | BinaryType> ? Output<P> : never
export type Query<R> = R extends Route<Schema, infer Q, Schema, Schema | BinaryType> ? Output<Q> : never
export type QueryInput<R> = R extends Route<Schema, infer Q, Schema, Schema | BinaryType> ? Input<Q> : never
export type Body<R> = R extends Route<Schema, Schema, infer B, Schema | BinaryType> ? Output<B> : never
/** What it answers; a Blob where it is no JSON. */
export type Answer<R> =
  R extends Route<Schema, Schema, Schema, infer A> ? (A extends Schema ? v.InferOutput<A> : Blob) : never

/** Whether a route only asks: by GET, or by POST where what is asked is long. */
export const onlyAsks = ({ method, renews, upload }: Route): boolean =>
  method === 'GET' || (upload === undefined && Array.isArray(renews) && renews.length === 0)
