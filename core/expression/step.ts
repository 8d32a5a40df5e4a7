import type { Context, Value } from './values/value.ts'

/** The names that can be seen from a place of an expression, the innermost first. */
export type Scope = { readonly names: Context; readonly outer: Scope | null; readonly item?: Value }

/** A part of an expression, compiled: what it comes to where these names can be seen. */
export type Step = (scope: Scope) => Value

/** A scope of its own without names. */
export const noNames: Context = new Map()
