import type { Element } from '@xmldom/xmldom'
import { attribute, element, elements, isOn } from './package.ts'

/** What a style turns on or off of the letters (17.7.3): absent where it says nothing. */
export const TOGGLES = ['b', 'i', 'u', 'caps', 'smallCaps', 'vanish', 'strike', 'dstrike'] as const
export type Toggle = (typeof TOGGLES)[number]
/** Styles of words that are on or off; absent: not said. */
export type Toggles = Readonly<Partial<Record<Toggle, boolean>>>

/** A style of paragraphs, with those it is based on worked in. */
export interface Style {
  readonly toggles: Toggles
  readonly outline: number | null
  readonly numId: string | null
  readonly level: number | null
}
/** Styles by their ids. */
export type Styles = ReadonlyMap<string, Style>

const NO_STYLE: Style = { toggles: {}, outline: null, numId: null, level: null }

/** What properties of letters say of each toggle. */
export const togglesOf = (properties: Element | null): Toggles =>
  Object.fromEntries(
    TOGGLES.flatMap((name) => {
      const flag = element(properties, name)
      return flag ? [[name, isOn(flag)]] : []
    }),
  )

/** Styles with what they inherit: how their letters look, heading level and numbering (ECMA-376 part 1, 17.7). */
export function stylesOf(root: Element | null): Styles {
  const raw = new Map(
    elements(root, 'style').map((style) => [attribute(style, 'styleId') ?? '', style] as const),
  )
  const resolved = new Map<string, Style>()
  const resolve = (id: string, depth: number): Style => {
    const done = resolved.get(id)
    const style = raw.get(id)
    if (done) return done
    if (!style || depth > 20) return NO_STYLE
    const base = resolve(attribute(element(style, 'basedOn'), 'val') ?? '', depth + 1)
    const properties = element(style, 'pPr')
    const named = /^heading (\d)$/i.exec(attribute(element(style, 'name'), 'val') ?? '')?.[1]
    const title = /^title$/i.test(attribute(element(style, 'name'), 'val') ?? '')
    const outline = attribute(element(properties, 'outlineLvl'), 'val')
    const number = element(properties, 'numPr')
    const level = attribute(element(number, 'ilvl'), 'val')
    const made = {
      toggles: { ...base.toggles, ...togglesOf(element(style, 'rPr')) },
      outline: outline !== null ? Number(outline) : named ? Number(named) - 1 : title ? 0 : base.outline,
      numId: attribute(element(number, 'numId'), 'val') ?? base.numId,
      level: level !== null ? Number(level) : base.level,
    }
    resolved.set(id, made)
    return made
  }
  for (const id of raw.keys()) resolve(id, 0)
  return resolved
}

/** How a paragraph is numbered. */
export interface Numbered {
  readonly kind: 'clause' | 'bullet' | 'letter'
  readonly level: number
  /** The manner of numbering where it is not one of ours. */
  readonly special: string | null
  /** Which list it belongs to: paragraphs of another list begin to count anew. */
  readonly list: string
}

/** What a paragraph's numbering makes of it; null where it has none. */
export type Numbering = (numId: string | null, level: number) => Numbered | null

/** Places of figures with what may stand around them: `%1.`, `%1.%2`, `(%3)`. */
const PLAIN_NUMBER = /^\s*\(?%\d(?:[.\-–]?%\d)*[.)]*\s*$/

const OURS = ['decimal', 'decimalZero', 'lowerLetter', 'bullet', 'none']

/** Numbering definitions (17.9): decimal levels are clauses, a list lettered from its first level is a lettered list. */
export function numberingOf(root: Element | null): Numbering {
  const formats = new Map(
    elements(root, 'abstractNum').map((each) => [
      attribute(each, 'abstractNumId') ?? '',
      new Map(
        elements(each, 'lvl').map((level) => [
          Number(attribute(level, 'ilvl') ?? 0),
          {
            format: attribute(element(level, 'numFmt'), 'val') ?? 'decimal',
            text: attribute(element(level, 'lvlText'), 'val') ?? '',
          },
        ]),
      ),
    ]),
  )
  const abstractOf = new Map(
    elements(root, 'num').map((each) => [
      attribute(each, 'numId') ?? '',
      attribute(element(each, 'abstractNumId'), 'val') ?? '',
    ]),
  )
  return (numId, level) => {
    if (numId === null || numId === '0') return null
    const levels = formats.get(abstractOf.get(numId) ?? '')
    const { format, text } = levels?.get(level) ?? { format: 'decimal', text: '' }
    if (format === 'bullet' || format === 'none') return { kind: 'bullet', level, special: null, list: numId }
    if ((levels?.get(0)?.format ?? format) === 'lowerLetter')
      return { kind: 'letter', level, special: null, list: numId }
    // Figures with dots or brackets are numbers as ours; words beside them are not.
    const worded = text !== '' && !PLAIN_NUMBER.test(text)
    const special = worded
      ? `“${text.replace(/%\d/g, '1').slice(0, 60)}”`
      : OURS.includes(format)
        ? null
        : format
    return { kind: 'clause', level, special, list: numId }
  }
}
