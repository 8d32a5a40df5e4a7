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

/** The newest renewal of each name, so that one which another cut short waits for that one. */
const newest = new Map<RouteName | 'everything', Promise<void>>()

async function again(name: RouteName | 'everything'): Promise<void> {
  const filters = name === 'everything' ? {} : { queryKey: [name] }
  const renewal = (async () => {
    // What is on its way was read before the change. A query that is off just now would take it for the answer to come.
    await queries.cancelQueries(filters)
    await queries.invalidateQueries(filters)
  })()
  newest.set(name, renewal)
  let last: Promise<void> | undefined
  while (last !== newest.get(name)) {
    last = newest.get(name)
    await last
  }
}

/**
 * Has answers of these routes read anew where they are shown, or once they are shown again. Done when what is shown is what
 * the server had after the call.
 */
export const renew = async (...names: readonly (RouteName | 'everything')[]): Promise<void> => {
  await Promise.all(names.map(again))
}
