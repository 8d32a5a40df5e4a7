import type { Auth } from '#core/connection/kinds.ts'
import { isMembers } from '#core/connection/read.ts'
import type { Json } from '#core/mapping/nested.ts'
import type { Sealed, Secrets } from '#server/ground/secrets.ts'
import type { Settings } from '#server/ground/settings.ts'
import { callOut, type CallOut } from './call-out.ts'

/** A customer system to be called; its secret is as it is kept. */
export interface System {
  readonly id: string
  readonly address: string
  readonly auth: Auth<Sealed>
}

interface Ground {
  readonly settings: Pick<Settings, 'inner'>
  readonly secrets: Secrets
}

interface Asking {
  readonly method: CallOut['method']
  /** Below the system's address. */
  readonly path: string
  readonly query?: Readonly<Record<string, string>>
  readonly body?: Json
  readonly file?: { readonly bytes: Uint8Array; readonly mediaType: string }
}

/** What it answered; or why there is no answer that can be used, and at which step. */
export type Asked =
  | { readonly ok: true; readonly status: number; readonly json: Json | null }
  | { readonly ok: false; readonly at: 'authentication' | 'answer'; readonly why: string }

/** Bytes of one answer that are read: a page of records. */
const MOST = 5_000_000

/** Tokens that count still, by the system and what it was asked with; of this process alone. */
const tokens = new Map<string, { readonly token: string; readonly until: number }>()

/** Asks a system. A token that it takes no more is asked for once again. */
export async function askSystem(ground: Ground, system: System, asking: Asking, now: Date): Promise<Asked> {
  const first = await askOnce(ground, system, asking, now)
  if (!first.ok || first.status !== 401 || system.auth.kind !== 'client') return first
  tokens.delete(keyOf(system))
  return askOnce(ground, system, asking, now)
}

async function askOnce(
  ground: Ground,
  system: System,
  { method, path, query, body, file }: Asking,
  now: Date,
): Promise<Asked> {
  const who = await credentials(ground, system, now)
  if (!who.ok) return { ok: false, at: 'authentication', why: who.why }
  const url = new URL(system.address.replace(/\/$/, '') + path)
  for (const [name, value] of Object.entries(query ?? {})) url.searchParams.set(name, value)
  const called = await callOut({
    url: url.href,
    method,
    headers: {
      accept: 'application/json',
      'user-agent': 'Brevan',
      ...who.headers,
      ...(file
        ? { 'content-type': file.mediaType }
        : body === undefined
          ? {}
          : { 'content-type': 'application/json' }),
    },
    ...(file ? { body: file.bytes } : body === undefined ? {} : { body: JSON.stringify(body) }),
    inner: ground.settings.inner,
    most: MOST,
  })
  if (!called.ok) return { ok: false, at: 'answer', why: called.why }
  if (called.cut) return { ok: false, at: 'answer', why: `One answer is larger than ${MOST / 1_000_000} MB.` }
  if (called.status === 401 || called.status === 403)
    return system.auth.kind === 'client' && called.status === 401
      ? { ok: true, status: 401, json: null }
      : { ok: false, at: 'authentication', why: `It refuses who calls (${called.status}).` }
  try {
    return {
      ok: true,
      status: called.status,
      json: called.said.trim() === '' ? null : (JSON.parse(called.said) as Json),
    }
  } catch {
    return { ok: true, status: called.status, json: null }
  }
}

const keyOf = ({ id, auth }: System): string => `${id} ${JSON.stringify(auth)}`

type Credentials =
  | { readonly ok: true; readonly headers: Readonly<Record<string, string>> }
  | { readonly ok: false; readonly why: string }

async function credentials(ground: Ground, system: System, now: Date): Promise<Credentials> {
  const { auth } = system
  const secret = 'secret' in auth ? ground.secrets.open(auth.secret) : ''
  switch (auth.kind) {
    case 'none':
      return { ok: true, headers: {} }
    case 'key':
      return { ok: true, headers: { [auth.header.toLowerCase()]: secret } }
    case 'basic':
      return { ok: true, headers: { authorization: basic(auth.user, secret) } }
    case 'client': {
      const kept = tokens.get(keyOf(system))
      if (kept && kept.until > now.getTime())
        return { ok: true, headers: { authorization: `Bearer ${kept.token}` } }
      const got = await token(ground, { ...auth, secret })
      if (!got.ok) return got
      tokens.set(keyOf(system), { token: got.token, until: now.getTime() + got.seconds * 1000 })
      return { ok: true, headers: { authorization: `Bearer ${got.token}` } }
    }
  }
}

const basic = (user: string, secret: string): string =>
  `Basic ${Buffer.from(`${user}:${secret}`).toString('base64')}`

/** Seconds before its end that a token counts no more: a call under way is to arrive with it. */
const EARLY = 30

/** RFC 6749, 4.4.2: client credentials, the client by HTTP basic authentication (2.3.1: form-encoded first). */
async function token(
  { settings: { inner } }: Ground,
  { tokenUrl, client, secret, scope }: Extract<Auth, { kind: 'client' }>,
): Promise<{ ok: true; token: string; seconds: number } | { ok: false; why: string }> {
  const called = await callOut({
    url: tokenUrl,
    method: 'POST',
    headers: {
      accept: 'application/json',
      'content-type': 'application/x-www-form-urlencoded',
      authorization: basic(encodeURIComponent(client), encodeURIComponent(secret)),
    },
    body: new URLSearchParams({ grant_type: 'client_credentials', ...(scope ? { scope } : {}) }).toString(),
    inner,
  })
  if (!called.ok) return { ok: false, why: `No token: ${called.why}` }
  let answer: Json
  try {
    answer = JSON.parse(called.said) as Json
  } catch {
    return { ok: false, why: `No token: the address for tokens answered ${called.status}, and no JSON.` }
  }
  const own = isMembers(answer) ? answer : {}
  const { access_token: given, expires_in: seconds, token_type: type, error } = own
  if (called.status !== 200 || typeof given !== 'string')
    return {
      ok: false,
      why: `No token: it answered ${called.status}${typeof error === 'string' ? `, ${error}` : ''}.`,
    }
  if (typeof type === 'string' && type.toLowerCase() !== 'bearer')
    return { ok: false, why: `Its tokens are of the type “${type}”; bearer tokens are understood.` }
  return {
    ok: true,
    token: given,
    seconds: Math.max(0, (typeof seconds === 'number' ? seconds : 300) - EARLY),
  }
}
