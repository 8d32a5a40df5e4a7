import { randomUUID } from 'node:crypto'
import { serialize } from 'node:v8'
import type { RunTerms } from '#core/run/check.ts'

/** Terms of a run for all threads to read; `key` names them. */
export interface SharedTerms {
  readonly key: string
  readonly bytes: Uint8Array<SharedArrayBuffer>
}

/** Terms are as large as a template: hundreds of tasks go by the same ones, and copying them each time would cost. */
export function shareTerms(terms: RunTerms): SharedTerms {
  const encoded = serialize(terms)
  const bytes = new Uint8Array(new SharedArrayBuffer(encoded.length))
  bytes.set(encoded)
  return { key: randomUUID(), bytes }
}
