import type { FoundField } from '#core/form/page-read.ts'
import { readMarker } from '../docx/markers.ts'
import { type PlacedGlyph, rounded } from './ink.ts'

/** A marker that stands on a page, with the letters it is written in. */
export interface PageMarker {
  readonly found: Omit<FoundField, 'page'>
  readonly glyphs: readonly PlacedGlyph[]
}

/** Longest marker that is looked for, in letters. */
const LONGEST = 300

/**
 * Markers as documents have them (`{{name}}`, `{{blank signature seller "…"}}`), where they stand on a page. Those around
 * other words, of conditions and repeats, have no meaning on pages that are laid out already: they are left, and counted.
 */
export function pageMarkers(glyphs: readonly PlacedGlyph[]): {
  readonly markers: readonly PageMarker[]
  readonly others: number
} {
  const letters: { readonly text: string; readonly glyph: PlacedGlyph | null }[] = []
  glyphs.forEach((glyph, i) => {
    const last = glyphs[i - 1]
    const apart =
      last &&
      !last.space &&
      !glyph.space &&
      (glyph.x - last.right > 0.2 * last.size || glyph.base - last.base > 0.3 * last.size)
    if (apart) letters.push({ text: ' ', glyph: null })
    for (const text of glyph.space ? ' ' : glyph.text) letters.push({ text, glyph })
  })
  const whole = letters.map(({ text }) => text).join('')
  const markers: PageMarker[] = []
  let others = 0
  for (const match of whole.matchAll(/\{\{([^{}]+)\}\}/g)) {
    if (match[1]!.length > LONGEST) continue
    const marker = readMarker(match[1]!)
    const own = new Set(
      letters
        .slice(match.index, match.index + match[0].length)
        .flatMap(({ glyph }) => (glyph ? [glyph] : [])),
    )
    const found = meaning(marker)
    if (!found) others++
    else markers.push({ found: { ...found, box: boxOf([...own]) }, glyphs: [...own] })
  }
  return { markers, others }
}

function meaning(marker: ReturnType<typeof readMarker>): Omit<FoundField, 'page' | 'box'> | null {
  if (marker.kind === 'field')
    return {
      name: marker.name,
      label: marker.label,
      kind: 'value',
      required: true,
      ...(marker.format ? { format: marker.format } : {}),
    }
  if (marker.kind !== 'blank') return null
  const { kind, role, label, required, prefill, options } = marker.blank.attrs
  return {
    name: label,
    label,
    kind: kind === 'signature' || kind === 'tick' || kind === 'choice' ? kind : 'text',
    required,
    blank: { kind, role, ...(prefill ? { prefill } : {}) },
    ...(options ? { options } : {}),
  }
}

/** The room that the first line of a marker takes: letters hang below its baseline by less than a third. */
function boxOf(glyphs: readonly PlacedGlyph[]): FoundField['box'] {
  const [first] = glyphs as [PlacedGlyph]
  const line = glyphs.filter(({ base }) => Math.abs(base - first.base) < 0.3 * first.size)
  const [x, right] = [Math.min(...line.map((each) => each.x)), Math.max(...line.map((each) => each.right))]
  const height = Math.max(10, first.size * 1.3)
  return rounded({ x, y: first.base + LIFT - height, width: right - x, height })
}

/** Words placed here stand this far above the lower edge: so they stand on the marker's own baseline. */
const LIFT = 2.4
