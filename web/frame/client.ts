import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { api } from '#contract/api.ts'
import type { Api, RouteName } from '#contract/api.ts'
import type { Problem } from '#contract/problem.ts'
import type { Answer, Route } from '#contract/route.ts'

/** A refusal by the server, in words for the user. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }
}

export interface Sent {
  readonly params?: Readonly<Record<string, string | number>> | undefined
  readonly query?: Readonly<Record<string, string | undefined>> | undefined
  readonly body?: unknown
  readonly signal?: AbortSignal | undefined
}

export function address(name: RouteName, { params, query }: Sent = {}): string {
  const path = api[name].path.replace(/:(\w+)/g, (_, key: string) =>
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

/** Calls a route of the contract. Refusals and lost connections come as ProblemError. */
export async function call<N extends RouteName>(name: N, sent: Sent = {}): Promise<Answer<Api[N]>> {
  const route = api[name] as Route
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
  return (typeof route.answer === 'string' ? response.blob() : response.json()) as Promise<Answer<Api[N]>>
}

/** Answers are known by route and what was asked; `invalidate([name])` renews all of a route. */
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

export const problemText = (error: unknown): string =>
  error instanceof Error ? error.message : 'Something went wrong.'
