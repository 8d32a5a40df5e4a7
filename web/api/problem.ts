import type { Problem } from '#contract/problem.ts'

/** A refusal by the server, in words for the user. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }
}

/** A refusal or fault in words for whoever sees it. */
export const problemText = (error: unknown): string =>
  error instanceof Error ? error.message : 'Something went wrong.'

/** What is wrong with what was sent, by the place of each fault: `organisation/sender`, without the slash before it. */
export type Faults = Readonly<Record<string, string>>

/** The parts of what was sent that were refused, by their pointers. */
export const faultsIn = (error: unknown): Faults =>
  error instanceof ProblemError
    ? Object.fromEntries(
        (error.problem.faults ?? []).map(({ pointer, detail }) => [pointer.replace(/^\//, ''), detail]),
      )
    : {}

/** Those of one part of what was sent, by their places in it. */
export const faultsUnder = (faults: Faults, part: string): Faults =>
  Object.fromEntries(
    Object.entries(faults).flatMap(([at, text]) =>
      at.startsWith(`${part}/`) ? [[at.slice(part.length + 1), text]] : [],
    ),
  )
