import type { Problem } from '#contract/problem.ts'

/** A refusal with its status and words for the user; answered as RFC 9457. Anything else thrown is a bug. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    detail: string,
    readonly faults: Problem['faults'] = undefined,
  ) {
    super(detail)
  }
}

/** 404: what was asked for is not there. */
export const notFound = (what: string) => new Refusal(404, 'Not found', `There is no such ${what}.`)
/** 409: it cannot be done as things are. */
export const conflict = (detail: string) => new Refusal(409, 'Not possible now', detail)
/** 422: what was sent is not valid. */
export const invalid = (detail: string, faults?: Problem['faults']) =>
  new Refusal(422, 'Not valid', detail, faults)
/** What was sent is wrong in some places (JSON pointers): the first is said, all are told. */
export const invalidAt = (problems: readonly { readonly pointer: string; readonly message: string }[]) =>
  invalid(
    problems[0]?.message ?? 'What was sent is not valid.',
    problems.map(({ pointer, message }) => ({ pointer, detail: message })),
  )
/** 403: whoever asks may not. */
export const forbidden = (detail: string) => new Refusal(403, 'Not allowed', detail)
