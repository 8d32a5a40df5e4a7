import type { Problem } from '#contract/problem.ts'

/** A refusal by the server, in words for the user. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }
}

export const problemText = (error: unknown): string =>
  error instanceof Error ? error.message : 'Something went wrong.'

/** What is wrong with what was sent, by the place of each fault: `organisation/sender`, without the slash before it. */
export const faultsIn = (error: unknown): Readonly<Record<string, string>> =>
  error instanceof ProblemError
    ? Object.fromEntries(
        (error.problem.faults ?? []).map(({ pointer, detail }) => [pointer.replace(/^\//, ''), detail]),
      )
    : {}
