/**
 * Where an agreement comes from, with what names the place. What is common to all of them, a number and an agreement's id,
 * belongs to the claim, so that no kind needs another's things. A new kind is a line here and one in `ORIGINS`.
 */
export interface Origins {
  /** A row of a run. */
  row: { readonly run: string; readonly row: number }
  /** One record of the record book, taken by itself. */
  record: { readonly record: string }
  /** Values that somebody typed, without a record. */
  typed: { readonly person: string }
  /** A file that somebody brought, by its SHA-256. */
  file: { readonly file: string }
  /** What somebody answered in an intake form. */
  answer: { readonly form: string; readonly answer: string }
  /** A program's call, by the reference that it gave. */
  call: { readonly key: string; readonly reference: string }
  /** What follows another agreement. */
  aftermath: { readonly agreement: string; readonly step: string }
}
/** The kinds of origins. */
export type OriginKind = keyof Origins

/** One place that an agreement comes from. */
export type Origin = { readonly [K in OriginKind]: { readonly kind: K } & Origins[K] }[OriginKind]

/** An origin as the trail keeps it: by the names people know it by, as they were then. */
export type ToldOrigin =
  | { readonly run: string; readonly row: number }
  | { readonly origin: Exclude<OriginKind, 'row'>; readonly named: string }

/** Each kind of origin: what rules call it (`run.from`), and what is said of it behind “made from”. */
export const ORIGINS = {
  row: { rules: 'sheet', says: (named) => named },
  record: { rules: 'record', says: (named) => `the record ${named}` },
  typed: { rules: 'typed', says: (named) => `values that ${named} typed` },
  file: { rules: 'file', says: (named) => `the file ${named}` },
  answer: { rules: 'answer', says: (named) => `an answer to ${named}` },
  call: { rules: 'program', says: (named) => `a call of ${named}` },
  // What follows is about the record of the agreement that it follows.
  aftermath: { rules: 'record', says: (named) => `what follows ${named}` },
} as const satisfies Readonly<
  Record<OriginKind, { readonly rules: string; readonly says: (named: string) => string }>
>

/** What rules may find an agreement to be made from. */
export type RuleOrigin = (typeof ORIGINS)[OriginKind]['rules']
/** All of them, for a choice. */
export const RULE_ORIGINS: readonly RuleOrigin[] = [
  ...new Set(Object.values(ORIGINS).map(({ rules }) => rules)),
]

/** An origin in words, behind “made from”. */
export const describeOrigin = (told: ToldOrigin): string =>
  'run' in told ? ORIGINS.row.says(`row ${told.row} of ${told.run}`) : ORIGINS[told.origin].says(told.named)
