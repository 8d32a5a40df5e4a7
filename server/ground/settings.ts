import { createHash } from 'node:crypto'
import { availableParallelism } from 'node:os'
import { join } from 'node:path'
import * as v from 'valibot'
import { root } from './room.ts'

const port = (fallback: number) =>
  v.optional(
    v.pipe(v.string(), v.regex(/^\d{1,5}$/), v.transform(Number), v.maxValue(65_535)),
    String(fallback),
  )

const POST_ROOM_PORT = 4325

const environment = v.object({
  DATABASE_URL: v.pipe(v.string(), v.minLength(1)),
  /** The owner of the tables, where that is another role; needed to bring the schema up to date, and for nothing else. */
  DATABASE_OWNER_URL: v.optional(v.string()),
  BREVAN_PORT: port(4380),
  BREVAN_SMTP_PORT: v.optional(
    v.pipe(v.string(), v.regex(/^\d{1,5}$/), v.transform(Number), v.maxValue(65_535)),
  ),
  BREVAN_URL: v.optional(v.pipe(v.string(), v.url())),
  BREVAN_FILED: v.optional(v.string(), ''),
  BREVAN_DATA: v.optional(v.string(), join(root, '.brevan')),
  /** `s3://bucket` or `s3://bucket/prefix`; without it files lie in the data folder. */
  BREVAN_FILES: v.optional(
    v.pipe(v.string(), v.regex(/^s3:\/\/[a-z0-9][a-z0-9.-]{1,61}[a-z0-9](?:\/[\w./-]*)?$/)),
  ),
  S3_ENDPOINT: v.optional(v.pipe(v.string(), v.url())),
  S3_REGION: v.optional(v.pipe(v.string(), v.minLength(1)), 'us-east-1'),
  BREVAN_SECRET_KEYS: v.optional(v.string(), ''),
  BREVAN_SECRET_KEY: v.optional(v.string(), ''),
  BREVAN_CONNECTIONS: v.optional(
    v.pipe(v.string(), v.regex(/^\d{1,3}$/), v.transform(Number), v.minValue(4)),
    '12',
  ),
  BREVAN_THREADS: v.optional(
    v.pipe(v.string(), v.regex(/^\d{1,2}$/), v.transform(Number), v.minValue(1)),
    String(Math.min(2, availableParallelism())),
  ),
  BREVAN_DEMO: v.optional(v.picklist(['yes', 'no']), 'no'),
  /** smtp://host:port of a real mail server; without it mail goes to the post room. */
  SMTP_URL: v.optional(v.string()),
  /** A gateway for texts over HTTP (server/post/texter.ts); without it texts go to the post room. */
  SMS_URL: v.optional(v.pipe(v.string(), v.url())),
  SMS_TOKEN: v.optional(v.string()),
  SEAL_P12: v.optional(v.string()),
  SEAL_PASSPHRASE: v.optional(v.string()),
  /** A key on a token (RFC 7512), with its certificates in PEM and the token's module (server/seal/token.ts). */
  SEAL_TOKEN: v.optional(v.pipe(v.string(), v.regex(/^pkcs11:\S+$/, 'a URI as of RFC 7512'))),
  SEAL_CERTIFICATES: v.optional(v.string()),
  SEAL_MODULE: v.optional(v.string()),
  /** Days that the demo's clock is ahead, to see what time brings: reminders, the last day, what goes by itself. */
  BREVAN_DAYS_AHEAD: v.optional(v.pipe(v.string(), v.regex(/^\d{1,3}$/), v.transform(Number)), '0'),
  /** A time-stamp authority (RFC 3161 over HTTP); without it the stand-in tells the time. */
  TSA_URL: v.optional(v.pipe(v.string(), v.url())),
  /**
   * Which proxies are believed when they tell whose a request is (X-Forwarded-For, X-Forwarded-Proto): `yes` for those on this
   * machine, or their addresses and networks, with commas between. What anybody else says in these headers is not read.
   */
  BREVAN_BEHIND_PROXY: v.optional(
    v.pipe(
      v.string(),
      v.regex(
        /^(?:yes|no|[\da-fA-F.:/]+(?:\s*,\s*[\da-fA-F.:/]+)*)$/,
        'yes, no, or addresses and networks of proxies',
      ),
    ),
    'no',
  ),
  /** Addresses and networks inside one's own network that webhooks and connections may lead to, with commas between. */
  BREVAN_INNER: v.optional(
    v.pipe(
      v.string(),
      v.regex(/^[\da-fA-F.:/]*(?:\s*,\s*[\da-fA-F.:/]+)*$/, 'addresses and networks of one’s own'),
    ),
    '',
  ),
  LOG_LEVEL: v.optional(v.picklist(['debug', 'info', 'warn', 'error', 'silent']), 'info'),
})

/** A bucket of a store that speaks S3's protocol. Keys come from where its tools look for them (`AWS_ACCESS_KEY_ID` …). */
export interface Bucket {
  readonly name: string
  /** In front of the files' names; empty, or ending in a slash. */
  readonly prefix: string
  /** Of a store of one's own; null: the region's. */
  readonly endpoint: string | null
  readonly region: string
}

/** The settings of an installation, out of its environment. */
export interface Settings {
  readonly databaseUrl: string
  readonly ownerUrl: string | null
  readonly port: number
  readonly smtpPort: number
  /** Whether mail is taken at that port: what comes back, and with the stand-in everything. */
  readonly takesReturned: boolean
  /** Where people reach the app; links in mails begin with it. */
  readonly publicUrl: string
  readonly dataFolder: string
  /** Below it are the folders on this machine that documents may be filed to. */
  readonly filedFolder: string
  /** Where files lie, if not in the data folder. */
  readonly bucket: Bucket | null
  /** Where the keys lie that the database's secrets are encrypted with; or the one key itself, in base64. */
  readonly secretKeys: string
  readonly secretKey: string | null
  /** Connections to the database that this process may hold, besides the queue's. */
  readonly connections: number
  readonly threads: number
  readonly demo: boolean
  /** Addresses and networks of proxies that are believed; null: none. */
  readonly proxies: readonly string[] | null
  readonly smtpUrl: string
  /** Whether mail goes to the stand-in that ships with the app. */
  readonly postRoom: boolean
  /** Where texts to telephones go. */
  readonly texts: { readonly url: string; readonly token: string; readonly postRoom: boolean }
  readonly seal:
    | { readonly p12: string; readonly passphrase: string }
    | { readonly uri: string; readonly certificates: string; readonly module: string | null }
    | null
  /** Milliseconds that the clock is ahead; of the demo alone. */
  readonly ahead: number
  /** Where seals get their time; `own`: the stand-in that ships with the app. */
  readonly time: { readonly url: string; readonly own: boolean }
  /** What may be called inside one's own network. */
  readonly inner: readonly string[]
  readonly logLevel: string
}

function bucketOf(address: string, endpoint: string | null, region: string): Bucket {
  const { host, pathname } = new URL(address)
  const prefix = pathname.split('/').filter(Boolean).join('/')
  return { name: host, prefix: prefix ? `${prefix}/` : '', endpoint, region }
}

/** Reads settings from the environment; throws with the names of what is wrong. */
export function readSettings(env: NodeJS.ProcessEnv = process.env): Settings {
  const read = v.safeParse(environment, env)
  if (!read.success)
    throw new Error(
      `Settings: ${read.issues.map((issue) => `${v.getDotPath(issue)}: ${issue.message}`).join('; ')}`,
    )
  const e = read.output
  if (e.DATABASE_OWNER_URL && new URL(e.DATABASE_OWNER_URL).pathname !== new URL(e.DATABASE_URL).pathname)
    throw new Error('Settings: DATABASE_OWNER_URL and DATABASE_URL name different databases.')
  if (e.SEAL_TOKEN && !e.SEAL_CERTIFICATES)
    throw new Error('Settings: SEAL_TOKEN needs SEAL_CERTIFICATES, the certificate of its key in PEM.')
  if (e.BREVAN_DAYS_AHEAD && e.BREVAN_DEMO !== 'yes')
    throw new Error('Settings: BREVAN_DAYS_AHEAD is for the demo alone.')
  return {
    databaseUrl: e.DATABASE_URL,
    ownerUrl: e.DATABASE_OWNER_URL || null,
    port: e.BREVAN_PORT,
    smtpPort: e.BREVAN_SMTP_PORT ?? POST_ROOM_PORT,
    takesReturned: e.SMTP_URL === undefined || e.BREVAN_SMTP_PORT !== undefined,
    publicUrl: e.BREVAN_URL ?? `http://127.0.0.1:${e.BREVAN_PORT}`,
    dataFolder: e.BREVAN_DATA,
    filedFolder: e.BREVAN_FILED || join(e.BREVAN_DATA, 'filed'),
    bucket: e.BREVAN_FILES ? bucketOf(e.BREVAN_FILES, e.S3_ENDPOINT ?? null, e.S3_REGION) : null,
    secretKeys: e.BREVAN_SECRET_KEYS || join(e.BREVAN_DATA, 'secret-keys'),
    secretKey: e.BREVAN_SECRET_KEY || null,
    connections: e.BREVAN_CONNECTIONS,
    threads: e.BREVAN_THREADS,
    demo: e.BREVAN_DEMO === 'yes',
    proxies:
      e.BREVAN_BEHIND_PROXY === 'no'
        ? null
        : e.BREVAN_BEHIND_PROXY === 'yes'
          ? ['loopback']
          : e.BREVAN_BEHIND_PROXY.split(',').map((each) => each.trim()),
    smtpUrl: e.SMTP_URL ?? `smtp://127.0.0.1:${e.BREVAN_SMTP_PORT ?? POST_ROOM_PORT}`,
    postRoom: e.SMTP_URL === undefined,
    texts: {
      url: e.SMS_URL ?? `http://127.0.0.1:${e.BREVAN_PORT}/api/post-room/texts`,
      // Of the stand-in: what web server and worker both know, and nobody else.
      token: e.SMS_TOKEN ?? createHash('sha256').update(`texts ${e.DATABASE_URL}`).digest('hex'),
      postRoom: e.SMS_URL === undefined,
    },
    seal: e.SEAL_TOKEN
      ? { uri: e.SEAL_TOKEN, certificates: e.SEAL_CERTIFICATES!, module: e.SEAL_MODULE ?? null }
      : e.SEAL_P12
        ? { p12: e.SEAL_P12, passphrase: e.SEAL_PASSPHRASE ?? '' }
        : null,
    ahead: e.BREVAN_DAYS_AHEAD * 86_400_000,
    time: {
      url: e.TSA_URL ?? `http://127.0.0.1:${e.BREVAN_PORT}/api/time-stamp`,
      own: e.TSA_URL === undefined,
    },
    inner: e.BREVAN_INNER.split(',')
      .map((each) => each.trim())
      .filter(Boolean),
    logLevel: e.LOG_LEVEL,
  }
}
