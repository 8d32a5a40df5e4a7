import { spawn } from 'node:child_process'
import { X509Certificate } from 'node:crypto'
import type { Signer } from './cms.ts'

/**
 * A key that lies on a token and never leaves it: named by its URI (RFC 7512), used through OpenSSL's engine for PKCS #11, of
 * Debian's packages openssl and libengine-pkcs11-openssl.
 */
export interface TokenKey {
  readonly uri: string
  /** The certificate of the key, then those above it: PEM. */
  readonly certificates: string
  /** The token's module, a shared library; null: the one that the system names. */
  readonly module: string | null
}

/** Milliseconds that a token may take for one signature. */
const WITHIN = 20_000

const inPem = (text: string): readonly Buffer[] =>
  (text.match(/-----BEGIN CERTIFICATE-----[^-]+-----END CERTIFICATE-----/g) ?? []).map(
    (each) => new X509Certificate(each).raw,
  )

/** Signs with the key on the token (SHA-256; RSA PKCS #1 v1.5, or ECDSA, as the key is). */
export function tokenSigner({ uri, certificates, module }: TokenKey): Signer {
  const [certificate, ...chain] = inPem(certificates)
  if (!certificate) throw new Error('SEAL_CERTIFICATES holds no certificate in PEM.')
  return {
    certificate,
    chain,
    sign: (bytes) =>
      new Promise((resolve, reject) => {
        // The PIN is named by the URI's pin-source and stands in a file: whoever lists processes does not see it.
        const signing = spawn(
          'openssl',
          ['dgst', '-sha256', '-engine', 'pkcs11', '-keyform', 'engine', '-sign', uri],
          {
            timeout: WITHIN,
            env: { ...process.env, ...(module ? { PKCS11_MODULE_PATH: module } : {}) },
          },
        )
        const out: Buffer[] = []
        let said = ''
        signing.stdout.on('data', (part: Buffer) => out.push(part))
        signing.stderr.on('data', (part: Buffer) => (said += part.toString()))
        signing.on('error', reject)
        signing.on('close', (code) => {
          const signature = Buffer.concat(out)
          if (code === 0 && signature.length) resolve(signature)
          else reject(new Error(`The token did not sign: ${reason(said)}`))
        })
        signing.stdin.on('error', () => undefined)
        signing.stdin.end(bytes)
      }),
  }
}

/** What OpenSSL says, without its places in the code, and without the URI, which may hold a PIN. */
const reason = (said: string): string =>
  said
    .split('\n')
    .filter((line) => line && !line.startsWith('Engine "pkcs11" set') && !/^[0-9A-F]+:error/.test(line))
    .join(' ')
    .replace(/pkcs11:\S+/g, 'its key')
    .slice(0, 300) || 'no reason given'
