import type { RecordKind } from '../records/kinds.ts'

/** Types of fields as far as they are told apart at a customer system. */
export const THEIR_TYPES = ['text', 'number', 'yes/no', 'date', 'list'] as const
export type TheirType = (typeof THEIR_TYPES)[number]

/** A field of their records: dots lead into groups; of a list of records, its fields. */
export interface TheirField {
  readonly name: string
  readonly type: TheirType
  readonly items?: readonly TheirField[]
}

/** How the next page is asked for: by what the page before says (`next`: a path into it), or by its number. */
export type Paging =
  | { readonly style: 'cursor'; readonly param: string; readonly next: string }
  | { readonly style: 'page'; readonly param: string }

/** Where what becomes of an agreement goes: fields of the record, and a path below it that takes files. */
export interface PushTo {
  readonly status: string | null
  readonly link: string | null
  readonly files: string | null
}

/** A kind of their records: how it is read, and what it becomes here. */
export interface TheirKind {
  readonly name: string
  /** Below the system's address. */
  readonly path: string
  /** Where the records stand in an answer, a dotted path; empty: the answer itself. */
  readonly items: string
  readonly id: string
  /** Query parameter that asks for what changed since an instant; null: everything is read each time. */
  readonly since: string | null
  readonly paging: Paging | null
  readonly fields: readonly TheirField[]
  /** What it becomes; null: it is not read. */
  readonly into: Exclude<RecordKind, 'price'> | null
  /** Of our fields, theirs that fills each; of a list `lines.item`. */
  readonly mapping: Readonly<Record<string, string>>
  /** Their field that names the customer whose it is, and of which kind that is. */
  readonly owner: { readonly field: string; readonly kind: string } | null
  readonly push: PushTo
}

/** How a system knows who calls; `S` is how its secret is kept. */
export type Auth<S extends string = string> =
  | { readonly kind: 'none' }
  | { readonly kind: 'key'; readonly header: string; readonly secret: S }
  | { readonly kind: 'basic'; readonly user: string; readonly secret: S }
  /** OAuth 2.0 client credentials (RFC 6749, 4.4). */
  | {
      readonly kind: 'client'
      readonly tokenUrl: string
      readonly client: string
      readonly secret: S
      readonly scope: string
    }
/** How we show a customer system who we are. */
export const AUTH_KINDS = ['none', 'key', 'basic', 'client'] as const

/** Failures in a row after which somebody is told. */
export const TOLD_AFTER = 3
/** The most pages, and records, that one pull reads of a kind. */
export const MOST_PAGES = 2000
/** The same for records. */
export const MOST_RECORDS = 100_000
