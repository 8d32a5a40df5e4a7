import { api } from '#contract/api.ts'
import type { RouteName } from '#contract/api.ts'
import type { Route } from '#contract/route.ts'

/** A route as a page calls it; its schemas stay with the server, which is who must not trust them. */
export interface CalledRoute extends Pick<Route, 'method' | 'path'> {
  readonly renews: Route['renews'] | undefined
  /** It answers bytes, not JSON. */
  readonly answersFile: boolean
}

/**
 * Every route of the contract. The build runs this file and puts what comes of it into the page (vite.config.ts): the schemas
 * behind it would be half of what a signer's phone loads.
 */
export const routes = Object.fromEntries(
  Object.entries<Route>(api).map(([name, { method, path, renews, answer }]) => [
    name,
    { method, path, renews, answersFile: typeof answer === 'string' },
  ]),
) as Readonly<Record<RouteName, CalledRoute>>
