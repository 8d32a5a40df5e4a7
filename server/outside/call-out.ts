import { request as plain } from 'node:http'
import { BlockList, isIPv6 } from 'node:net'
import { request as secured } from 'node:https'
import { useAgent } from 'request-filtering-agent'

/** What became of a call: the answer's status with the beginning of what it said, or why there is none. */
export type CalledOut =
  | { readonly ok: true; readonly status: number; readonly said: string; readonly cut: boolean }
  | { readonly ok: false; readonly why: string }

export interface CallOut {
  readonly url: string
  readonly method: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE' | 'MKCOL' | 'OPTIONS'
  readonly headers: Readonly<Record<string, string>>
  readonly body?: string | Uint8Array
  /** Addresses and networks inside one's own network that may be called, CIDR. */
  readonly inner: readonly string[]
  /** Bytes of the answer that are read; what is behind them is cut. */
  readonly most?: number
}

/**
 * Ways to write an address of another kind as one of IPv6 that the agent does not look behind: IPv4-compatible (RFC 4291,
 * 2.5.5.1), by a translator (RFC 6052, RFC 8215) and by 6to4 (RFC 3056).
 */
const DISGUISED = new BlockList()
for (const [network, bits] of [
  ['::', 96],
  ['64:ff9b::', 96],
  ['64:ff9b:1::', 48],
  ['2002::', 16],
] as const)
  DISGUISED.addSubnet(network, bits, 'ipv6')

function isDisguised(address: string, inner: readonly string[]): boolean {
  if (!isIPv6(address) || !DISGUISED.check(address, 'ipv6')) return false
  const allowed = new BlockList()
  for (const each of inner) {
    const [network = '', bits] = each.split('/')
    if (isIPv6(network)) allowed.addSubnet(network, Number(bits ?? 128), 'ipv6')
  }
  return !allowed.check(address, 'ipv6')
}

const NOT_ALLOWED = new Error('The address is not allowed.')

/** Milliseconds that all of it may take, however slowly it is answered; bytes of the answer that are read. */
const PATIENCE = 15_000
const MOST_READ = 65_536

/**
 * Makes one call. What the name leads to is looked at when the connection is made, not before, so that a name that says another
 * address the second time is refused too. An answer that sends on is answered as it is: nobody goes there.
 */
export function callOut({
  url,
  method,
  headers,
  body,
  inner,
  most = MOST_READ,
}: CallOut): Promise<CalledOut> {
  return new Promise((resolve) => {
    let overdue: NodeJS.Timeout | undefined
    const end = (result: CalledOut) => {
      clearTimeout(overdue)
      resolve(result)
    }
    let call: ReturnType<typeof plain>
    try {
      const address = new URL(url)
      if (address.protocol !== 'http:' && address.protocol !== 'https:')
        return end({ ok: false, why: 'Only http and https are called.' })
      if (isDisguised(address.hostname.replace(/^\[|\]$/g, ''), inner)) throw NOT_ALLOWED
      const bytes = body === undefined ? null : typeof body === 'string' ? Buffer.from(body) : body
      call = (address.protocol === 'https:' ? secured : plain)(
        address,
        {
          method,
          headers: { ...headers, ...(bytes ? { 'content-length': String(bytes.length) } : {}) },
          agent: useAgent(url, { allowIPAddressList: [...inner], keepAlive: false }),
        },
        (response) => {
          const parts: Buffer[] = []
          let size = 0
          const done = () =>
            end({
              ok: true,
              status: response.statusCode ?? 0,
              said: Buffer.concat(parts).toString('utf8'),
              cut: size > most,
            })
          response.on('data', (part: Buffer) => {
            const room = most - size
            parts.push(part.subarray(0, room))
            size += part.length
            // The rest is of no use: the connection is closed.
            if (size > most) {
              done()
              response.destroy()
            }
          })
          response.on('end', done)
          response.on('error', (error) => end({ ok: false, why: reasonOf(error) }))
        },
      )
      call.on('socket', (socket) =>
        socket.on('lookup', (_error, found) => {
          if (isDisguised(String(found), inner)) socket.destroy(NOT_ALLOWED)
        }),
      )
      call.on('error', (error) => end({ ok: false, why: reasonOf(error) }))
      overdue = setTimeout(() => {
        end({ ok: false, why: `Not answered within ${PATIENCE / 1000} seconds.` })
        call.destroy()
      }, PATIENCE)
      call.end(bytes ?? undefined)
    } catch (error) {
      end({ ok: false, why: reasonOf(error) })
    }
  })
}

const WORDS: Readonly<Record<string, string>> = {
  ECONNREFUSED: 'Nothing listens at that address.',
  ENOTFOUND: 'The name of that address is not known.',
  EAI_AGAIN: 'The name of that address could not be looked up.',
  ECONNRESET: 'The connection was broken off.',
  ETIMEDOUT: 'The address does not answer.',
  CERT_HAS_EXPIRED: 'Its certificate has expired.',
  DEPTH_ZERO_SELF_SIGNED_CERT: 'Its certificate is signed by itself.',
}

/** Why a call came to nothing, in words. */
function reasonOf(error: unknown): string {
  const { code = '', message = '' } = error as { code?: string; message?: string }
  if (/is not allowed/i.test(message))
    return 'That address lies inside this server’s own network, which is not called unless it is allowed (BREVAN_INNER).'
  return WORDS[code] ?? `The call came to nothing: ${message.slice(0, 200)}`
}
