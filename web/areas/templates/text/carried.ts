import { type DOMOutputSpec, DOMSerializer, type Node, type Schema } from '@tiptap/pm/model'

// What a passage or a blank is, beside its words, goes over the clipboard as JSON in one attribute of its element.

const ATTRIBUTE = 'data-carried'
/** Characters; nothing of ours comes near. */
const LONGEST = 20_000

type Plain =
  string | number | boolean | null | undefined | readonly Plain[] | { readonly [key: string]: Plain }

const cache = new WeakMap<Element, Readonly<Record<string, unknown>>>()

/** What an element says of the node it was copied from; nothing where it says nothing that can be read. */
export function carriedBy(element: Element): Readonly<Record<string, unknown>> {
  const known = cache.get(element)
  if (known) return known
  let found: Readonly<Record<string, unknown>> = {}
  const text = element.getAttribute(ATTRIBUTE)
  if (text && text.length <= LONGEST)
    try {
      const read = JSON.parse(text) as unknown
      if (typeof read === 'object' && read !== null && !Array.isArray(read))
        found = read as Readonly<Record<string, unknown>>
    } catch {
      // Whoever wrote that meant something else by the attribute.
    }
  cache.set(element, found)
  return found
}

const text = (value: unknown): value is string => typeof value === 'string' && value.length <= 4000
const list = (value: unknown): boolean => Array.isArray(value) && value.length <= 200

/** What may come over a clipboard that others write on too. */
export const FITS = {
  id: (value: unknown) => text(value) && /^[\w-]{1,60}$/.test(value),
  text,
  name: (value: unknown) => text(value) && value.length > 0 && value.length <= 120,
  flag: (value: unknown) => typeof value === 'boolean',
  number: (value: unknown) => typeof value === 'number' && Number.isFinite(value),
  texts: (value: unknown) => list(value) && (value as unknown[]).every(text),
  numbers: (value: unknown) =>
    value === null || (list(value) && (value as unknown[]).every((each) => typeof each === 'number')),
  source: (value: unknown) => {
    if (value === null) return true
    if (typeof value !== 'object') return false
    const { clause, edition, linked } = value as Record<string, unknown>
    return text(clause) && Number.isInteger(edition) && typeof linked === 'boolean'
  },
} as const

/** An attribute that is not drawn, but goes along when its node is copied. */
export const carried = (name: string, initial: Plain, fits: (value: unknown) => boolean) => ({
  default: initial,
  rendered: false,
  keepOnSplit: false,
  parseHTML: (element: Element): unknown => {
    const value = carriedBy(element)[name]
    return value !== undefined && fits(value) ? value : initial
  },
})

function withCarried(spec: DOMOutputSpec, { attrs }: Node): DOMOutputSpec {
  if (!Array.isArray(spec)) return spec
  const [tag, second, ...rest] = spec as unknown as readonly [string, ...unknown[]]
  const said = Object.fromEntries(
    Object.entries(attrs).filter(([, value]) => value !== null && value !== undefined && value !== false),
  )
  const data = { [ATTRIBUTE]: JSON.stringify(said) }
  const isAttributes = typeof second === 'object' && second !== null && !Array.isArray(second)
  return (isAttributes
    ? [tag, { ...second, ...data }, ...rest]
    : [tag, data, ...(second === undefined ? [] : [second]), ...rest]) as unknown as DOMOutputSpec
}

/** Writes nodes for the clipboard as they are drawn, with what they carry. */
export function carryingSerializer(schema: Schema): DOMSerializer {
  const drawn = DOMSerializer.fromSchema(schema)
  const nodes = Object.fromEntries(
    Object.entries(drawn.nodes).map(([name, draw]) => [
      name,
      name === 'text' ? draw : (node: Node) => withCarried(draw(node), node),
    ]),
  )
  return new DOMSerializer(nodes, drawn.marks)
}
