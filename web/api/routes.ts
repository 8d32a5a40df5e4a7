import { api, type RouteName } from '#contract/api.ts'
import { answersFile, type Route } from '#contract/route.ts'

/** A route as a page calls it; its schemas stay with the server, which is who must not trust them. */
export interface CalledRoute extends Pick<Route, 'method' | 'path'> {
  readonly renews: 'everything' | readonly RouteName[] | undefined
  /** It answers bytes, not JSON. */
  readonly answersFile: boolean
}

/**
 * Every route of the contract. The build runs this file and puts what comes of it into the page (vite.config.ts): the schemas
 * behind it would be half of what a signer's phone loads.
 */
export const routes = Object.fromEntries(
  Object.entries<Route>(api).map(([name, route]) => [
    name,
    { method: route.method, path: route.path, renews: route.renews, answersFile: answersFile(route) },
  ]),
) as Readonly<Record<RouteName, CalledRoute>>
