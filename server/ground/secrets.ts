import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto'
import { mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { dirname } from 'node:path'

// Secrets that the database keeps: encrypted under a key that lies outside it, so that a copy of the database opens nothing.

/** A secret as it is kept: `v1.`, the key's name, and nonce, text and tag in base64url (AES-256-GCM, NIST SP 800-38D). */
export type Sealed = string & { readonly sealed: unique symbol }

/** No secret at all. */
export const NONE = '' as Sealed

const CIPHER = 'aes-256-gcm'
const [NONCE, TAG, KEY] = [12, 16, 32]

const nameOf = (key: Buffer): string => createHash('sha256').update(key).digest('hex').slice(0, 8)

/** The key ring lacks the key that something was encrypted with. */
export class KeyMissing extends Error {
  constructor(where: string) {
    super(
      `The secrets in the database were encrypted with another key than those in ${where}. Put back the key file that belongs to this database.`,
    )
  }
}

/** The keys of an installation: what is new is encrypted with the first, what is there is read with any of them. */
export class Secrets {
  private keys: readonly Buffer[]

  private constructor(
    private readonly where: string,
    private readonly read: () => readonly Buffer[],
  ) {
    this.keys = read()
  }

  /** One key that a setting gives, in base64. */
  static ofKey(key: string): Secrets {
    const keys = [keyOf(key)]
    return new Secrets('BREVAN_SECRET_KEY', () => keys)
  }

  /** The keys of a file, one a line, the newest first; made by whoever comes first, for its owner alone. */
  static ofFile(path: string): Secrets {
    mkdirSync(dirname(path), { recursive: true })
    try {
      writeFileSync(path, `${randomBytes(KEY).toString('base64')}\n`, { flag: 'wx', mode: 0o600 })
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error
    }
    return new Secrets(path, () => keysIn(path))
  }

  /** Puts a new key before the others of a file: whatever is encrypted from here on is so with it. */
  static addKey(path: string): void {
    const fresh = `${path}.new`
    writeFileSync(fresh, `${randomBytes(KEY).toString('base64')}\n${readFileSync(path, 'utf8')}`, {
      mode: 0o600,
    })
    renameSync(fresh, path)
  }

  seal(text: string): Sealed {
    if (text === '') return NONE
    const key = this.keys[0]!
    const nonce = randomBytes(NONCE)
    const cipher = createCipheriv(CIPHER, key, nonce)
    const bytes = Buffer.concat([nonce, cipher.update(text, 'utf8'), cipher.final(), cipher.getAuthTag()])
    return `v1.${nameOf(key)}.${bytes.toString('base64url')}` as Sealed
  }

  /** Throws where it was changed, or its key is not here. */
  open(sealed: Sealed): string {
    if (sealed === NONE) return ''
    const [version, name, text = ''] = sealed.split('.')
    const key = version === 'v1' ? this.keyNamed(name ?? '') : null
    if (!key) throw new KeyMissing(this.where)
    const bytes = Buffer.from(text, 'base64url')
    const decipher = createDecipheriv(CIPHER, key, bytes.subarray(0, NONCE))
    decipher.setAuthTag(bytes.subarray(-TAG))
    return Buffer.concat([decipher.update(bytes.subarray(NONCE, -TAG)), decipher.final()]).toString('utf8')
  }

  /** Whether something stands in the clear, or is encrypted with a key that is not the newest any more. */
  isOld(kept: string): boolean {
    return kept !== '' && !kept.startsWith(`v1.${nameOf(this.keys[0]!)}.`)
  }

  /** What is kept, encrypted with the newest key; of text in the clear that is its first time. */
  renewed(kept: string): Sealed {
    return this.seal(/^v1\.[0-9a-f]{8}\./.test(kept) ? this.open(kept as Sealed) : kept)
  }

  /** Another process may have added a key since. */
  private keyNamed(name: string): Buffer | null {
    const find = () => this.keys.find((key) => nameOf(key) === name) ?? null
    const found = find()
    if (found) return found
    this.keys = this.read()
    return find()
  }
}

const keysIn = (path: string): readonly Buffer[] =>
  readFileSync(path, 'utf8')
    .split('\n')
    .filter((line) => line.trim() !== '')
    .map(keyOf)

function keyOf(text: string): Buffer {
  const key = Buffer.from(text.trim(), 'base64')
  if (key.length !== KEY) throw new Error(`A key for secrets has ${KEY} bytes, in base64.`)
  return key
}
