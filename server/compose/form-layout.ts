import { initial } from '#core/text/cut.ts'
import type { PlacedBlank } from '#core/agreement/signing.ts'
import type { FinishedBlank, FinishedPages, FinishedPlace, Stretch } from '#core/merge/finished.ts'

/** In points. */
export interface PageSize {
  readonly width: number
  readonly height: number
}

/** What form.typ draws; sizes and places in points from the top left. */
export interface FormData {
  readonly title: string
  readonly language: string
  readonly mark: string
  readonly pages: readonly {
    readonly width: number
    readonly height: number
    readonly places: readonly object[]
    readonly options: readonly {
      readonly x: number
      readonly y: number
      readonly size: number
      readonly label: string
    }[]
    readonly initials: readonly object[]
  }[]
}

/** Words or a value on a page. */
export interface LaidText {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
  readonly style: FinishedPlace['style']
  readonly runs: readonly object[]
  /** How it is told of where it does not fit. */
  readonly told: { readonly origin?: number; readonly blank?: string }
}

/** What stands on one page. */
export interface LaidPage {
  readonly texts: readonly LaidText[]
  readonly blanks: readonly PlacedBlank[]
  readonly options: FormData['pages'][number]['options']
  readonly initials: readonly object[]
}

type Words = Extract<Stretch, { kind: 'text' }>

/** Sides of the box in which an option is ticked, and the room of a line of options, where nothing else is said. */
const TICK = 9
const OPTION_LINE = 14
/** The places of initials at the foot of a page. */
const INITIALS = { width: 34, height: 15, apart: 22, above: 34 } as const

/** Where everything of one page stands: words to draw, and places to be filled. */
export function layPage(
  places: readonly FinishedPlace[],
  page: number,
  size: PageSize,
  document: FinishedPages,
  proof: boolean,
): LaidPage {
  const texts: LaidText[] = []
  const blanks: PlacedBlank[] = []
  const options: FormData['pages'][number]['options'][number][] = []
  places.forEach((place) => {
    const words = place.runs.filter((run): run is Words => run.kind === 'text')
    if (words.some(({ text }) => text !== ''))
      texts.push({
        ...boxOf(place),
        style: place.style,
        runs: words.map(({ text, bold, italic, underline, gap }) => ({
          text,
          bold,
          italic,
          underline,
          gap,
          preset: false,
        })),
        told: toldBy(words),
      })
    const own = place.runs.flatMap((run) => (run.kind === 'blank' ? [run.blank] : []))
    // Several people of one role share the place, beside each other.
    own.forEach((blank, i) => {
      const width = place.width / own.length
      const box = { ...boxOf(place), x: place.x + i * width, width }
      const laid = layBlank(blank, box, place, page)
      blanks.push(laid.blank)
      options.push(...laid.printed)
      const { preset } = blank.rules
      if (proof && preset && blank.kind !== 'tick' && blank.kind !== 'choice')
        texts.push({
          ...box,
          style: place.style,
          runs: [{ text: preset, bold: false, italic: false, underline: false, gap: false, preset: true }],
          told: { blank: blank.label },
        })
    })
  })
  const { initials } = document
  const wide = initials.length * (INITIALS.width + INITIALS.apart) - INITIALS.apart
  const initialled = initials.map(({ role, label, shape }, i) => ({
    role,
    shape,
    letter: initial(label),
    x: (size.width - wide) / 2 + i * (INITIALS.width + INITIALS.apart),
    y: size.height - INITIALS.above,
    width: INITIALS.width,
    height: INITIALS.height,
  }))
  return {
    texts,
    blanks: [
      ...blanks,
      ...initialled.map(({ role, x, y, width, height }) => ({
        id: `initials.${role}.${page}`,
        kind: 'initials' as const,
        role,
        label: `Initials, page ${page}`,
        required: true,
        page,
        x,
        y,
        width,
        height,
      })),
    ],
    options,
    initials: initialled,
  }
}

const boxOf = ({ x, y, width, height }: FinishedPlace) => ({ x, y, width, height })

const toldBy = (words: readonly Words[]): LaidText['told'] => {
  const origin = words.find((each) => each.origin !== null)?.origin ?? null
  return origin === null ? {} : { origin }
}

function layBlank(
  blank: FinishedBlank,
  box: ReturnType<typeof boxOf>,
  place: FinishedPlace,
  page: number,
): { readonly blank: PlacedBlank; readonly printed: LaidPage['options'] } {
  const { id, kind, role, label, required, rules } = blank
  const base = {
    id,
    kind,
    role,
    label,
    required,
    page,
    ...box,
    ...(Object.keys(rules).length ? { rules } : {}),
  }
  if (kind !== 'choice') return { blank: base, printed: [] }
  const said = rules.options ?? []
  const there = place.ticks
  const step = Math.max(TICK + 2, Math.min(OPTION_LINE, box.height / Math.max(1, said.length)))
  // Options that the page does not show itself are printed, one below the other.
  const own = there && there.at.length >= said.length
  const at = own ? there.at.slice(0, said.length) : said.map((_, i) => ({ x: box.x, y: box.y + i * step }))
  const size = own ? there.size : TICK
  return {
    blank: { ...base, width: size, height: size, options: at.map(({ x, y }) => ({ page, x, y })) },
    printed: own ? [] : at.map(({ x, y }, i) => ({ x, y, size, label: said[i]! })),
  }
}
