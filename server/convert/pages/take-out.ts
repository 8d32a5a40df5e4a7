import { PDFDict, PDFName } from 'pdf-lib'

// Letters are taken out of a page's own operators (ISO 32000-1, 9.4.3): what was shown is not shown any more, and what stands
// beside it stays where it is. Nothing is painted over.

/** One letter to take out: which operator shows it, which of its letters, and how far it moves on, in thousandths of the size. */
interface Letter {
  readonly show: number
  readonly index: number
  readonly step: number
}

type Token =
  | { readonly kind: 'operator'; readonly text: string; readonly from: number; readonly to: number }
  | { readonly kind: 'string'; readonly bytes: Uint8Array; readonly from: number; readonly to: number }
  | { readonly kind: 'number'; readonly value: number; readonly from: number; readonly to: number }
  | { readonly kind: 'name'; readonly text: string; readonly from: number; readonly to: number }
  | { readonly kind: '[' | ']'; readonly from: number; readonly to: number }
  | { readonly kind: 'other'; readonly from: number; readonly to: number }

/**
 * The content of a page without some letters. `sizes` says how many letters each operator shows, by whoever read the page;
 * where ours are another number, that operator is left alone and named in `left`.
 */
export function takeOut(
  content: Uint8Array,
  letters: readonly Letter[],
  sizes: readonly number[],
  resources: PDFDict | undefined,
): { readonly content: Uint8Array; readonly left: ReadonlySet<number> } {
  const wanted = new Map<number, Map<number, number>>()
  for (const { show, index, step } of letters)
    wanted.set(show, (wanted.get(show) ?? new Map<number, number>()).set(index, step))
  const parts: Buffer[] = []
  const source = Buffer.from(content.buffer, content.byteOffset, content.byteLength)
  let done = 0
  let show = 0
  const left = new Set<number>()
  let font = ''
  let operands: Token[] = []
  for (const token of tokens(content)) {
    if (token.kind !== 'operator') {
      operands.push(token)
      continue
    }
    const { text } = token
    if (text === 'Tf') font = operands.find((each) => each.kind === 'name')?.text ?? font
    if (SHOWS.has(text)) {
      const out = wanted.get(show)
      if (out) {
        const shown = rewritten(text, operands, out, bytesOfCode(resources, font), sizes[show] ?? -1)
        if (shown === null) left.add(show)
        else {
          const from = operands[0]?.from ?? token.from
          parts.push(source.subarray(done, from), Buffer.from(shown, 'latin1'))
          done = token.to
        }
      }
      show++
    }
    operands = []
  }
  parts.push(source.subarray(done))
  return { content: Uint8Array.from(Buffer.concat(parts)), left }
}

const SHOWS = new Set(['Tj', 'TJ', "'", '"'])

/** Bytes of a letter's code: of composite fonts two (9.7.6.2, Identity), of simple ones one. */
function bytesOfCode(resources: PDFDict | undefined, font: string): number {
  const fonts = resources?.lookupMaybe(PDFName.of('Font'), PDFDict)
  const found = fonts?.lookupMaybe(PDFName.of(font), PDFDict)
  return found?.get(PDFName.of('Subtype')) === PDFName.of('Type0') ? 2 : 1
}

/** The operator that shows the same without some letters; null where its letters cannot be told apart. */
function rewritten(
  operator: string,
  operands: readonly Token[],
  out: ReadonlyMap<number, number>,
  bytes: number,
  size: number,
): string | null {
  const pieces: string[] = []
  let index = 0
  for (const token of operands) {
    if (token.kind === 'number' && operator === 'TJ') pieces.push(numeral(token.value))
    if (token.kind !== 'string') continue
    if (token.bytes.length % bytes) return null
    let kept = ''
    for (let i = 0; i < token.bytes.length; i += bytes, index++) {
      const step = out.get(index)
      if (step === undefined) {
        kept += Buffer.from(token.bytes.subarray(i, i + bytes)).toString('hex')
        continue
      }
      if (kept) pieces.push(`<${kept}>`)
      kept = ''
      pieces.push(numeral(-step))
    }
    if (kept) pieces.push(`<${kept}>`)
  }
  if (index !== size) return null
  const spacing = operands.flatMap((token) => (token.kind === 'number' ? [token.value] : []))
  const before =
    operator === "'"
      ? 'T* '
      : operator === '"'
        ? `${numeral(spacing[0] ?? 0)} Tw ${numeral(spacing[1] ?? 0)} Tc T* `
        : ''
  return `${before}[${pieces.join(' ')}] TJ`
}

const numeral = (value: number): string => String(Math.round(value * 1000) / 1000)

const WHITE = new Set([0, 9, 10, 12, 13, 32])
const DELIMITERS = new Set([...'()<>[]{}/%'].map((sign) => sign.charCodeAt(0)))
const code = (sign: string): number => sign.charCodeAt(0)

/** The tokens of a content stream (7.8.2); the data of inline pictures are passed over. */
export function* tokens(content: Uint8Array): Generator<Token> {
  let at = 0
  const word = (): string => {
    const from = at
    while (at < content.length && !WHITE.has(content[at]!) && !DELIMITERS.has(content[at]!)) at++
    return Buffer.from(content.subarray(from, at)).toString('latin1')
  }
  while (at < content.length) {
    const from = at
    const byte = content[at]!
    if (WHITE.has(byte)) at++
    else if (byte === code('%')) while (at < content.length && content[at] !== 10 && content[at] !== 13) at++
    else if (byte === code('(')) {
      const { bytes, end } = literal(content, at)
      at = end
      yield { kind: 'string', bytes, from, to: at }
    } else if (byte === code('<') && content[at + 1] !== code('<')) {
      const end = content.indexOf(code('>'), at)
      const to = end < 0 ? content.length : end + 1
      const digits = Buffer.from(content.subarray(at + 1, to - 1))
        .toString('latin1')
        .replace(/[^0-9a-f]/gi, '')
      at = to
      yield { kind: 'string', bytes: Buffer.from(digits.length % 2 ? `${digits}0` : digits, 'hex'), from, to }
    } else if (byte === code('[') || byte === code(']')) {
      at++
      yield { kind: byte === code('[') ? '[' : ']', from, to: at }
    } else if (byte === code('/')) {
      at++
      yield { kind: 'name', text: word(), from, to: at }
    } else if (DELIMITERS.has(byte)) {
      at += (byte === code('<') || byte === code('>')) && content[at + 1] === byte ? 2 : 1
      yield { kind: 'other', from, to: at }
    } else {
      const text = word()
      const value = Number(text)
      if (text !== '' && Number.isFinite(value)) yield { kind: 'number', value, from, to: at }
      else {
        if (text === 'ID') at = afterPicture(content, at)
        yield { kind: 'operator', text, from, to: at }
      }
    }
  }
}

/** Where the data of an inline picture end (8.9.7): behind the first EI between white space. */
function afterPicture(content: Uint8Array, at: number): number {
  for (let i = at; i + 3 < content.length; i++)
    if (
      WHITE.has(content[i]!) &&
      content[i + 1] === code('E') &&
      content[i + 2] === code('I') &&
      (i + 3 >= content.length || WHITE.has(content[i + 3]!))
    )
      return i + 3
  return content.length
}

const ESCAPES: Readonly<Record<string, number>> = { n: 10, r: 13, t: 9, b: 8, f: 12 }

/** A string in brackets (7.3.4.2). */
function literal(content: Uint8Array, at: number): { readonly bytes: Uint8Array; readonly end: number } {
  const bytes: number[] = []
  let depth = 1
  let i = at + 1
  for (; i < content.length && depth > 0; i++) {
    const byte = content[i]!
    if (byte === code('\\')) {
      const next = String.fromCharCode(content[++i] ?? 0)
      const octal = /^[0-7]{1,3}/.exec(Buffer.from(content.subarray(i, i + 3)).toString('latin1'))?.[0]
      if (octal) {
        bytes.push(Number.parseInt(octal, 8) & 255)
        i += octal.length - 1
      } else if (next === '\r' || next === '\n') {
        if (next === '\r' && content[i + 1] === 10) i++
      } else bytes.push(ESCAPES[next] ?? next.charCodeAt(0))
      continue
    }
    if (byte === code('(')) depth++
    if (byte === code(')') && --depth === 0) continue
    bytes.push(byte)
  }
  return { bytes: Uint8Array.from(bytes), end: i }
}
