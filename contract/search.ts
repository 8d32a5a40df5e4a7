import * as v from 'valibot'
import { id } from './basics.ts'
import { route } from './route.ts'

/** What can be found by its name, from anywhere. */
export const FOUND_KINDS = [
  'customer',
  'contact',
  'deal',
  'price',
  'agreement',
  'template',
  'packet',
  'run',
  'sheet',
  'rule table',
  'intake form',
] as const
/** One of them. */
export type FoundKind = (typeof FOUND_KINDS)[number]

/** Words to look for; `kinds`, by commas: only those. */
export const searchQuery = v.object({
  q: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(200)), ''),
  kinds: v.optional(
    v.pipe(
      v.string(),
      v.maxLength(200),
      v.transform((text) => text.split(',')),
      v.array(v.picklist(FOUND_KINDS)),
    ),
  ),
})

/** One thing that was found; `of`: whose it is, or how it stands. */
export const foundSchema = v.object({
  kind: v.picklist(FOUND_KINDS),
  id,
  label: v.string(),
  of: v.nullable(v.string()),
})

/** The route that finds. */
export const searchRoutes = {
  search: route({
    method: 'GET',
    path: '/search',
    summary:
      'What has these words in its name or number, or nearly so: records, agreements, templates, runs, sheets …',
    access: 'person',
    query: searchQuery,
    answer: v.array(foundSchema),
  }),
}
