import type { Request, Response } from 'express'
import { seen } from '#core/text/pattern.ts'
import { invalid } from '#server/ground/problem.ts'

/** Media type of a word processor's document (ECMA-376). */
export const DOCX = 'application/vnd.openxmlformats-officedocument.wordprocessingml.document'

/** The bytes of an upload; an empty one is refused. */
export function uploaded(body: unknown): Buffer {
  if (!Buffer.isBuffer(body) || body.length === 0) throw invalid('The file is empty.')
  return body
}

/** A recording, or the part of it that a player asks for (RFC 9110, 14.2): some play nothing that comes only whole. */
export function sendPart(
  request: Request,
  response: Response,
  { bytes, type }: { readonly bytes: Uint8Array; readonly type: string },
): void {
  response.type(type)
  response.setHeader('Accept-Ranges', 'bytes')
  response.setHeader('Cache-Control', 'private, no-store')
  response.setHeader('Content-Security-Policy', "default-src 'none'; sandbox")
  const ranges = request.range(bytes.length)
  if (ranges === -1) {
    response.status(416).setHeader('Content-Range', `bytes */${bytes.length}`)
    response.end()
    return
  }
  const [part] = Array.isArray(ranges) && ranges.type === 'bytes' && ranges.length === 1 ? ranges : []
  if (!part) {
    response.end(bytes)
    return
  }
  response.status(206).setHeader('Content-Range', `bytes ${part.start}-${part.end}/${bytes.length}`)
  response.end(bytes.subarray(part.start, part.end + 1))
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
