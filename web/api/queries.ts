import { QueryClient } from '@tanstack/react-query'
import type { RouteName } from '#contract/api.ts'
import { ProblemError } from './problem.ts'

/** Answers of this window, by route and what was asked. */
export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 2000,
      // A refusal stays a refusal; only a lost connection is worth another try.
      retry: (count, error) => error instanceof ProblemError && error.problem.status === 0 && count < 3,
    },
  },
})

/** Has answers of these routes read anew where they are shown; done when they are there. */
export const renew = async (...names: readonly RouteName[]): Promise<void> => {
  await Promise.all(names.map((name) => queries.invalidateQueries({ queryKey: [name] })))
}
