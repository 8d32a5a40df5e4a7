import { keepPreviousData, useIsMutating, useMutation, useQuery } from '@tanstack/react-query'
import type { Api, RouteName } from '#contract/api.ts'
import type { Problem } from '#contract/problem.ts'
import type { Answer } from '#contract/route.ts'
import { useNotice } from './notices.tsx'
import { ProblemError, problemText } from './problem.ts'
import { renew } from './queries.ts'
import { routes } from './routes.ts'

export { ProblemError, problemText }

/** What goes with a call: parts of its address, its query, its body. */
export interface Sent {
  readonly params?: Readonly<Record<string, string | number>> | undefined
  readonly query?: Readonly<Record<string, string | undefined>> | undefined
  readonly body?: unknown
  readonly signal?: AbortSignal | undefined
  /** The page is left by it, or keeps what was typed as it goes: what it renews is read beside it, not before it is done. */
  readonly goesOn?: boolean
}

/** The address of a route with its parameters filled in, for links and downloads. */
export function address(name: RouteName, { params, query }: Sent = {}): string {
  const path = routes[name].path.replace(/:(\w+)/g, (_, key: string) =>
    encodeURIComponent(String(params?.[key] ?? '')),
  )
  const given = Object.entries(query ?? {}).filter(
    (entry): entry is [string, string] => entry[1] !== undefined && entry[1] !== '',
  )
  return `/api${path}${given.length ? `?${new URLSearchParams(given).toString()}` : ''}`
}

const unreachable: Problem = {
  type: 'about:blank',
  title: 'No connection',
  status: 0,
  detail: 'The server cannot be reached. What you entered is still here; try again in a moment.',
}

/**
 * Calls a route of the contract, and has read anew what it says it renews before it is done: a page that says what has been
 * done shows it too. What has been deleted is not read again first. Refusals and lost connections come as ProblemError.
 */
export async function call<N extends RouteName>(name: N, sent: Sent = {}): Promise<Answer<Api[N]>> {
  const route = routes[name]
  const file = sent.body instanceof Blob
  const response = await fetch(address(name, sent), {
    method: route.method,
    ...(sent.signal ? { signal: sent.signal } : {}),
    ...(sent.body === undefined
      ? {}
      : {
          body: file ? (sent.body as Blob) : JSON.stringify(sent.body),
          headers: { 'content-type': file ? 'application/octet-stream' : 'application/json' },
        }),
  }).catch((error: unknown) => {
    if (error instanceof DOMException && error.name === 'AbortError') throw error
    throw new ProblemError(unreachable)
  })
  if (!response.ok) {
    const problem = (await response.json().catch(() => ({
      ...unreachable,
      status: response.status,
      detail: 'The server gave no readable answer.',
    }))) as Problem
    throw new ProblemError(problem)
  }
  const answer = (await bodyOf(response, route.answersFile)) as Answer<Api[N]>
  const renewed = renew(...(route.renews === 'everything' ? (['everything'] as const) : (route.renews ?? [])))
  if (!sent.goesOn && route.method !== 'DELETE') await renewed
  return answer
}

const bodyOf = (response: Response, file: boolean): Promise<unknown> =>
  response.status === 204
    ? Promise.resolve(undefined)
    : file
      ? response.blob()
      : (response.json() as Promise<unknown>)

/** Answers are known by route and what was asked. */
export function useAnswer<N extends RouteName>(
  name: N,
  sent: Sent = {},
  options: { enabled?: boolean; every?: number | false; keep?: boolean } = {},
) {
  return useQuery({
    queryKey: [name, sent.params ?? null, sent.query ?? null],
    queryFn: ({ signal }) => call(name, { ...sent, signal }),
    enabled: options.enabled ?? true,
    refetchInterval: options.every ?? false,
    ...(options.keep ? { placeholderData: keepPreviousData } : {}),
  })
}

/** A writing call; a refusal is told. */
export function useCall<N extends RouteName>(name: N, onDone?: (answer: Answer<Api[N]>) => void) {
  const say = useNotice()
  return useMutation({
    mutationKey: [name],
    mutationFn: (sent: Sent) => call(name, sent),
    onSuccess: (answer) => onDone?.(answer),
    onError: (error) => say(problemText(error), 'fault'),
  })
}

/** Whether a writing call is on its way anywhere on the page, or what it renews is: what is shown may be of before it. */
export const useCalling = (name: RouteName): boolean => useIsMutating({ mutationKey: [name] }) > 0
