import type { Route } from '#contract/route.ts'

/** A route as a page calls it; its schemas stay with the server, which is who must not trust them. */
export interface CalledRoute extends Pick<Route, 'method' | 'path'> {
  readonly renews: Route['renews'] | undefined
  /** It answers bytes, not JSON. */
  readonly answersFile: boolean
}
