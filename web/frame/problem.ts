import type { Problem } from '#contract/problem.ts'

/** A refusal by the server, in words for the user. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }
}

export const problemText = (error: unknown): string =>
  error instanceof Error ? error.message : 'Something went wrong.'
