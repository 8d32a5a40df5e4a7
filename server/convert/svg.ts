import { SaxesParser, type SaxesTagPlain } from 'saxes'

/** The size of a drawing in its own units, or why it is not taken. */
export type ReadSvg =
  | { readonly ok: true; readonly width: number; readonly height: number }
  | { readonly ok: false; readonly problem: string }

/** Far above any drawing for a letterhead. What draws it goes down level by level, and follows every reference. */
const LIMITS = { levels: 60, elements: 20_000, drawn: 100_000 } as const

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

class Unfit extends Error {}

const ONLY_DRAWINGS = 'only drawings are taken.'

/**
 * Reads a text as an SVG that only draws: no script, no handler, no other picture, nothing from outside. Anything else is
 * refused and named; null where it is no SVG at all. Takes time in proportion to its length.
 */
export function readSvg(text: string): ReadSvg | null {
  if (!/^\uFEFF?\s*</.test(text.slice(0, 200))) return null
  const reader = new SvgReader()
  try {
    reader.read(text)
  } catch (error) {
    if (!reader.isSvg) return null
    return {
      ok: false,
      problem: error instanceof Unfit ? error.message : 'The SVG picture is not well-formed XML.',
    }
  }
  return reader.isSvg ? reader.result() : null
}

class SvgReader {
  isSvg = false
  private elements = 0
  private size: { width: number; height: number } = { width: 100, height: 100 }
  private inStyle = false
  /** Ids of the elements around, outermost first; empty text for one without. */
  private readonly around: string[] = []
  /** Elements inside each element with an id, and the ids that are named from within it. */
  private readonly inside = new Map<string, { elements: number; names: string[] }>()
  private readonly named: string[] = []

  read(text: string): void {
    const parser = new SaxesParser({ position: false })
    parser.on('doctype', () => {
      this.isSvg = true
      throw new Unfit('The SVG picture has a document type; save it as plain SVG.')
    })
    parser.on('opentag', (tag) => this.open(tag as SaxesTagPlain))
    parser.on('closetag', () => {
      this.around.pop()
      this.inStyle = false
    })
    parser.on('text', (found) => {
      if (this.inStyle && /@import|url\(/i.test(found))
        throw new Unfit(`The SVG picture refers to something outside of itself; ${ONLY_DRAWINGS}`)
    })
    parser.on('error', (error) => {
      throw error
    })
    parser.write(text).close()
  }

  result(): ReadSvg {
    const { width, height } = this.size
    if (this.costOf(this.named, new Set()) > LIMITS.drawn)
      return {
        ok: false,
        problem: 'The SVG picture repeats its parts too often to be drawn. Save it with less in it.',
      }
    return { ok: true, width, height }
  }

  private open({ name: full, attributes }: Pick<SaxesTagPlain, 'name' | 'attributes'>): void {
    const name = full.slice(full.indexOf(':') + 1).toLowerCase()
    if (this.elements === 0) {
      if (name !== 'svg') throw new Unfit('no SVG')
      this.isSvg = true
      this.size = sizeOf(attributes)
    }
    if (++this.elements > LIMITS.elements)
      throw new Unfit(`The SVG picture has more than ${LIMITS.elements} parts. Save it with less in it.`)
    if (this.around.length >= LIMITS.levels)
      throw new Unfit(`The SVG picture is nested deeper than ${LIMITS.levels} levels.`)
    if (FORBIDDEN.has(name)) throw new Unfit(`The SVG picture has <${name}> in it; ${ONLY_DRAWINGS}`)
    const id = attributes['id'] ?? ''
    this.around.push(id)
    for (const outer of this.around) if (outer) this.partOf(outer).elements++
    for (const [attribute, value] of Object.entries(attributes)) this.attribute(attribute, value)
    if (name === 'image')
      throw new Unfit('The SVG picture has another picture in it. Save that one by itself.')
    this.inStyle = name === 'style'
  }

  private attribute(attribute: string, value: string): void {
    if (/^on/i.test(attribute))
      throw new Unfit(`The SVG picture has a script in “${attribute}”; ${ONLY_DRAWINGS}`)
    const href = /href$/i.test(attribute) ? value.trim() : null
    const urls = [...value.matchAll(/url\(([^)]{0,200})/gi)].map((found) =>
      found[1]!.trim().replace(/^["']/, ''),
    )
    for (const target of href === null ? urls : [href, ...urls]) {
      if (!target.startsWith('#'))
        throw new Unfit(`The SVG picture refers to something outside of itself; ${ONLY_DRAWINGS}`)
      const id = target.slice(1).replace(/["']$/, '')
      this.named.push(id)
      for (const outer of this.around) if (outer) this.partOf(outer).names.push(id)
    }
  }

  private partOf(id: string) {
    const there = this.inside.get(id) ?? { elements: 0, names: [] }
    this.inside.set(id, there)
    return there
  }

  private readonly costs = new Map<string, number>()

  /** Elements that are drawn for these references, over however many steps; infinite where they go in a circle. */
  private costOf(names: readonly string[], path: ReadonlySet<string>): number {
    let cost = 0
    for (const id of names) {
      const known = this.costs.get(id)
      if (known !== undefined) cost += known
      else {
        const part = this.inside.get(id)
        if (!part) continue
        if (path.has(id)) return Number.POSITIVE_INFINITY
        const own = part.elements + this.costOf(part.names, new Set([...path, id]))
        this.costs.set(id, own)
        cost += own
      }
      if (cost > LIMITS.drawn) return cost
    }
    return cost
  }
}

function sizeOf(attributes: Readonly<Record<string, string>>): { width: number; height: number } {
  const box = (attributes['viewBox'] ?? '').trim().split(/[\s,]+/, 4)
  const size = (text: string | undefined, at: number): number =>
    Number.parseFloat(text ?? '') || Number.parseFloat(box[at] ?? '') || 100
  return { width: size(attributes['width'], 2), height: size(attributes['height'], 3) }
}
