/**
 * Where an agreement comes from, with what names the place. What is common to all of them, a number and an agreement's id,
 * belongs to the claim, so that no kind needs another's things. A new kind is a line here and one in `SAID`.
 */
export interface Origins {
  /** A row of a run. */
  row: { readonly run: string; readonly row: number }
  /** One record of the record book, taken by itself. */
  record: { readonly record: string }
  /** A file that somebody brought, by its SHA-256. */
  file: { readonly file: string }
  /** What somebody answered in an intake form. */
  answer: { readonly form: string; readonly answer: string }
  /** A program's call, by the reference that it gave. */
  call: { readonly key: string; readonly reference: string }
  /** What follows another agreement. */
  aftermath: { readonly agreement: string; readonly step: string }
}
export type OriginKind = keyof Origins

/** One place that an agreement comes from. */
export type Origin = { readonly [K in OriginKind]: { readonly kind: K } & Origins[K] }[OriginKind]

/** An origin as the trail keeps it: by the names people know it by, as they were then. */
export type ToldOrigin =
  | { readonly run: string; readonly row: number }
  | { readonly origin: Exclude<OriginKind, 'row'>; readonly named: string }

const SAID: Readonly<Record<Exclude<OriginKind, 'row'>, (named: string) => string>> = {
  record: (named) => `the record ${named}`,
  file: (named) => `the file ${named}`,
  answer: (named) => `an answer to ${named}`,
  call: (named) => `a call of ${named}`,
  aftermath: (named) => `what follows ${named}`,
}

/** An origin in words, behind “made from”. */
export const originSaid = (told: ToldOrigin): string =>
  'run' in told ? `row ${told.row} of ${told.run}` : SAID[told.origin](told.named)
