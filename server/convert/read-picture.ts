import { DOMParser } from '@xmldom/xmldom'
import type { Element, Node } from '@xmldom/xmldom'

export type ReadPicture =
  | { readonly ok: true; readonly mediaType: string; readonly width: number; readonly height: number }
  | { readonly ok: false; readonly problem: string }

/** Largest picture taken: bytes, and pixels on a side (a decoder's memory grows with the square). */
export const PICTURE_LIMITS = { bytes: 2_000_000, side: 6000 } as const

const fail = (problem: string): ReadPicture => ({ ok: false, problem })

/** Tells what picture the bytes are by their own words, never by a file's name. Sizes in pixels. */
export function readPicture(bytes: Uint8Array): ReadPicture {
  if (bytes.length > PICTURE_LIMITS.bytes) return fail('The picture is larger than 2 MB. Save it smaller.')
  const read = png(bytes) ?? jpeg(bytes) ?? svg(bytes)
  if (!read) return fail('This is no PNG, JPEG or SVG picture.')
  if (read.ok && Math.max(read.width, read.height) > PICTURE_LIMITS.side)
    return fail(`The picture is wider or higher than ${PICTURE_LIMITS.side} pixels. Save it smaller.`)
  return read
}

/** ISO/IEC 15948: signature, then the IHDR chunk with width and height. */
function png(bytes: Uint8Array): ReadPicture | null {
  const signature = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]
  if (!signature.every((byte, i) => bytes[i] === byte)) return null
  if (bytes.length < 33) return fail('The picture is cut off.')
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  return { ok: true, mediaType: 'image/png', width: view.getUint32(16), height: view.getUint32(20) }
}

/** ITU-T T.81: the first start-of-frame segment has height and width. */
function jpeg(bytes: Uint8Array): ReadPicture | null {
  if (bytes[0] !== 0xff || bytes[1] !== 0xd8) return null
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  for (let at = 2; at + 9 < bytes.length;) {
    if (bytes[at] !== 0xff) break
    const marker = bytes[at + 1]!
    if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker))
      return {
        ok: true,
        mediaType: 'image/jpeg',
        width: view.getUint16(at + 7),
        height: view.getUint16(at + 5),
      }
    at += 2 + view.getUint16(at + 2)
  }
  return fail('The picture is cut off.')
}

const FORBIDDEN = new Set([
  'script',
  'foreignobject',
  'iframe',
  'object',
  'embed',
  'audio',
  'video',
  'handler',
  'set',
  'animate',
])

/** An SVG that only draws: no script, no handler, nothing from outside. Anything else is refused and named. */
function svg(bytes: Uint8Array): ReadPicture | null {
  const text = new TextDecoder('utf-8').decode(bytes)
  if (!/^\s*(<\?xml[^>]*>\s*)?(<!--[\s\S]*?-->\s*)*(<!DOCTYPE[^>[]*(\[[\s\S]*?\])?>\s*)?<svg[\s>]/.test(text))
    return null
  if (/<!DOCTYPE|<!ENTITY/i.test(text))
    return fail('The SVG picture has a document type; save it as plain SVG.')
  const root = rootOf(text)
  if (!root) return fail('The SVG picture is not well-formed XML.')
  const problem = unsafe(root)
  if (problem) return fail(problem)
  const size = (name: 'width' | 'height', at: number): number =>
    Number.parseFloat(root.getAttribute(name) ?? '') ||
    Number.parseFloat(root.getAttribute('viewBox')?.split(/[\s,]+/)[at] ?? '') ||
    100
  return { ok: true, mediaType: 'image/svg+xml', width: size('width', 2), height: size('height', 3) }
}

/** The root of well-formed XML; null for anything else. */
function rootOf(text: string): Element | null {
  try {
    const onError = (level: string) => {
      if (level !== 'warning') throw new Error(level)
    }
    return new DOMParser({ onError }).parseFromString(text, 'image/svg+xml').documentElement
  } catch {
    return null
  }
}

function unsafe(element: Element): string | null {
  const name = element.localName?.toLowerCase() ?? ''
  if (FORBIDDEN.has(name)) return `The SVG picture has <${name}> in it; only drawings are taken.`
  for (let i = 0; i < element.attributes.length; i++) {
    const { name: attribute, value } = element.attributes[i]!
    if (/^on/i.test(attribute))
      return `The SVG picture has a script in “${attribute}”; only drawings are taken.`
    const outside = /href$/i.test(attribute) && !/^(#|data:image\/(png|jpeg);base64,)/i.test(value.trim())
    if (outside || /url\(\s*["']?(?!#)/i.test(value))
      return 'The SVG picture refers to something outside of itself; only drawings are taken.'
  }
  if (name === 'style' && /@import|url\(/i.test(element.textContent ?? ''))
    return 'The SVG picture refers to something outside of itself; only drawings are taken.'
  for (let child: Node | null = element.firstChild; child; child = child.nextSibling) {
    const problem = child.nodeType === 1 ? unsafe(child as Element) : null
    if (problem) return problem
  }
  return null
}
