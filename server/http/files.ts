import type { Response } from 'express'
import { seen } from '#core/text/pattern.ts'
import { invalid } from '#server/ground/problem.ts'

/** Media type of a word processor's document (ECMA-376). */
export const DOCX = 'application/vnd.openxmlformats-officedocument.wordprocessingml.document'

/** The bytes of an upload; an empty one is refused. */
export function uploaded(body: unknown): Buffer {
  if (!Buffer.isBuffer(body) || body.length === 0) throw invalid('The file is empty.')
  return body
}

/** RFC 6266: the name in plain letters, and whole as RFC 8187 UTF-8. */
export function sendFile(
  response: Response,
  bytes: Uint8Array,
  name: string,
  type: string,
  disposition: 'inline' | 'attachment',
): void {
  const shown = seen(name.toWellFormed())
  const plain = shown.replace(/[^\x20-\x7e]|["\\%]/g, '_')
  response.type(type)
  response.setHeader(
    'Content-Disposition',
    `${disposition}; filename="${plain}"; filename*=UTF-8''${encodeURIComponent(shown)}`,
  )
  response.setHeader('Cache-Control', 'private, no-store')
  response.end(bytes)
}
