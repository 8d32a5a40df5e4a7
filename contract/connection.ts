import * as v from 'valibot'
import { AUTH_KINDS, THEIR_TYPES, type TheirKind } from '#core/connection/kinds.ts'
import { count, id, instant, shortText } from './basics.ts'

const name = v.pipe(v.string(), v.minLength(1), v.maxLength(300))
/** Below the system's address; it leads nowhere else. */
const path = v.pipe(
  v.string(),
  v.trim(),
  v.maxLength(500),
  v.regex(/^\/(?!\/)[^\s\\]*$/, 'A path begins with one slash, such as /customers.'),
)
const secret = v.pipe(v.string(), v.maxLength(1000))
const url = v.pipe(
  v.string(),
  v.trim(),
  v.maxLength(1000),
  v.check(
    (text) => URL.canParse(text) && /^https?:$/.test(new URL(text).protocol),
    'Write the address as https://name.',
  ),
)

const auth = v.variant('kind', [
  v.object({ kind: v.literal('none') }),
  v.object({
    kind: v.literal('key'),
    header: v.pipe(
      v.string(),
      v.regex(/^[\w!#$%&'*+.^`|~-]{1,100}$/, 'This is no name of a header.'),
      v.check(
        (text) => !/^(host|content-length|transfer-encoding|connection)$/i.test(text),
        'This header is the connection’s own.',
      ),
    ),
    secret: v.pipe(secret, v.regex(/^[\x20-\x7e]*$/, 'A header has letters, digits and signs.')),
  }),
  v.object({
    kind: v.literal('basic'),
    user: v.pipe(v.string(), v.maxLength(200), v.regex(/^[^:]*$/)),
    secret,
  }),
  v.object({
    kind: v.literal('client'),
    tokenUrl: url,
    client: v.pipe(v.string(), v.minLength(1), v.maxLength(300)),
    secret,
    scope: v.pipe(v.string(), v.trim(), v.maxLength(500)),
  }),
])

const plainField = { name, type: v.picklist(THEIR_TYPES) }
const kindSchema = v.object({
  name,
  path,
  items: v.pipe(v.string(), v.maxLength(300)),
  id: name,
  since: v.nullable(name),
  paging: v.nullable(
    v.variant('style', [
      v.object({ style: v.literal('cursor'), param: name, next: name }),
      v.object({ style: v.literal('page'), param: name }),
    ]),
  ),
  fields: v.pipe(
    v.array(
      v.object({ ...plainField, items: v.optional(v.pipe(v.array(v.object(plainField)), v.maxLength(300))) }),
    ),
    v.maxLength(600),
  ),
  into: v.nullable(v.picklist(['customer', 'contact', 'deal'])),
  mapping: v.record(name, name),
  owner: v.nullable(v.object({ field: name, kind: name })),
  push: v.object({
    status: v.nullable(name),
    link: v.nullable(name),
    files: v.nullable(
      v.pipe(v.string(), v.regex(/^[\w-]+(\/[\w-]+)*$/, 'A path below a record, such as files.')),
    ),
  }),
})
const kindAsKept = kindSchema as unknown as v.GenericSchema<TheirKind>

/** A customer system to be connected, or as it is to be from now on; an empty secret leaves what it was. */
export const connectionWish = v.object({
  name: shortText,
  address: url,
  description: v.union([v.literal(''), path]),
  auth,
  kinds: v.pipe(
    v.array(kindSchema),
    v.maxLength(60),
    v.check(
      (kinds) => new Set(kinds.map((each) => each.name)).size === kinds.length,
      'Each kind stands there once.',
    ),
    v.check(
      (kinds) => kinds.every(({ into, mapping }) => into === null || mapping['name'] !== undefined),
      'Say which field is the name of what is read.',
    ),
  ),
  everyMinutes: v.nullable(v.pipe(count, v.minValue(1), v.maxValue(10_080))),
})
export const connectionChange = v.object({ ...connectionWish.entries, version: v.number() })

/** A customer system as it stands. */
export const connectionSchema = v.object({
  id,
  name: v.string(),
  address: v.string(),
  description: v.string(),
  auth: v.looseObject({ kind: v.picklist(AUTH_KINDS) }),
  kinds: v.array(kindAsKept),
  drift: v.array(
    v.object({
      kind: v.string(),
      what: v.picklist(['gone', 'type', 'new']),
      field: v.string(),
      before: v.string(),
      now: v.string(),
    }),
  ),
  everyMinutes: v.nullable(count),
  /** Where it says that something changed. */
  hook: v.string(),
  owner: v.string(),
  version: v.number(),
  pulledAt: v.nullable(instant),
  busy: v.boolean(),
  problem: v.nullable(v.string()),
  failures: count,
  dueAt: v.nullable(instant),
  last: v.object({ made: count, changed: count }),
  records: count,
  conflicts: count,
  faulty: count,
  waiting: count,
})

/** What came of trying a connection, step by step; the first that failed is the last. */
export const triedSchema = v.object({
  steps: v.array(v.object({ name: v.string(), ok: v.boolean(), said: v.string() })),
})
export const foundKinds = v.object({ kinds: v.array(kindAsKept) })

/** A record that somebody has to say something to. */
export const conflictSchema = v.object({
  kind: v.string(),
  theirId: v.string(),
  record: v.nullable(v.object({ id, kind: v.picklist(['customer', 'contact', 'deal']), name: v.string() })),
  differences: v.array(v.object({ field: v.string(), ours: v.string(), theirs: v.string() })),
  problems: v.array(v.object({ field: v.string(), message: v.string() })),
  waits: v.boolean(),
})
