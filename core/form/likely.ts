import type { BlankKind, Box } from '../document/tree.ts'
import { linesOf } from './lines.ts'
import type { PageLine, PageRead, PageWord } from './page-read.ts'

/** A place on a page that looks as if something is to be written there, with the words beside it as its label. */
export interface LikelyBlank {
  readonly box: Box
  readonly kind: Extract<BlankKind, 'signature' | 'initials' | 'date' | 'text' | 'tick'>
  readonly label: string
}

/** In points. */
const SHORTEST_RULE = 36
const TICK = { least: 5.5, most: 18 } as const
const CELL = { width: 24, least: 9, most: 90 } as const
const LINE = 14
/** Points that ends of lines may miss each other by. */
const NEAR = 2
const SIGNATURE_HEIGHT = 26
// eslint-disable-next-line regexp/no-super-linear-move -- of one word, of 200 characters at the most
const LEADERS = /[_.\u2026\u2027\u00b7]{4,}/

/** Everything on a page that looks like a blank, from top to bottom: rules, dotted lines, frames, empty cells of tables. */
export function likelyBlanks(page: PageRead): readonly LikelyBlank[] {
  const found: { box: Box; tick: boolean }[] = []
  const add = (box: Box, tick = false) => {
    if (box.width < 4 || box.height < 4) return
    if (!found.some((other) => overlap(other.box, box) > 0.3 * Math.min(area(other.box), area(box))))
      found.push({ box, tick })
  }
  const written = page.words.filter(({ text }) => !LEADERS.test(text))
  const frames = page.boxes.filter(
    ({ width, height }) => width < page.width * 0.95 && height < page.height * 0.5,
  )
  for (const box of frames) if (isTick(box)) add(box, true)
  for (const box of leaders(page)) add(box)
  for (const cell of cells(page, frames))
    if (isTick(cell)) add(cell, true)
    else if (isRoom(cell) && !written.some((word) => inside(word, cell))) add(inset(cell))
  for (const line of page.lines) {
    const box = aboveRule(line, page)
    if (box) add(box)
  }
  const labels = labelling(page)
  return found
    .map(({ box, tick }): LikelyBlank => {
      const label = labels(
        box,
        tick,
        found.map((each) => each.box),
      )
      const kind = tick ? 'tick' : kindOf(label)
      return { box: kind === 'signature' ? grown(box, page) : box, kind, label }
    })
    .sort((a, b) => a.box.y - b.box.y || a.box.x - b.box.x)
}

const area = ({ width, height }: Box): number => width * height
const overlap = (a: Box, b: Box): number =>
  Math.max(0, Math.min(a.x + a.width, b.x + b.width) - Math.max(a.x, b.x)) *
  Math.max(0, Math.min(a.y + a.height, b.y + b.height) - Math.max(a.y, b.y))

const isTick = ({ width, height }: Box): boolean =>
  Math.min(width, height) >= TICK.least &&
  Math.max(width, height) <= TICK.most &&
  Math.abs(width - height) < 3

const isRoom = ({ width, height }: Box): boolean =>
  width >= CELL.width && height >= CELL.least && height <= CELL.most

const inside = (word: PageWord, box: Box): boolean =>
  word.x + word.width / 2 > box.x &&
  word.x + word.width / 2 < box.x + box.width &&
  word.base - word.size * 0.3 > box.y &&
  word.base - word.size * 0.3 < box.y + box.height

const inset = ({ x, y, width, height }: Box): Box => ({
  x: x + 3,
  y: y + 1,
  width: width - 6,
  height: height - 2,
})

const grown = (box: Box, page: PageRead): Box => {
  if (box.height >= SIGNATURE_HEIGHT) return box
  const up = Math.min(SIGNATURE_HEIGHT - box.height, box.y)
  const above = { ...box, y: box.y - up, height: up }
  return page.words.some((word) => inside(word, above))
    ? box
    : { ...box, y: box.y - up, height: box.height + up }
}

/** The room above a rule across the page, as far as nothing is written there. */
function aboveRule({ x1, x2, y1, y2 }: PageLine, page: PageRead): Box | null {
  if (y2 - y1 > 1 || x2 - x1 < SHORTEST_RULE || x2 - x1 > page.width * 0.9) return null
  // A line that others come down to is the edge of a table.
  const meeting = page.lines.filter(
    (line) =>
      line.x2 - line.x1 < 1 &&
      line.x1 >= x1 - NEAR &&
      line.x1 <= x2 + NEAR &&
      line.y1 <= y1 + NEAR &&
      line.y2 >= y1 - NEAR,
  )
  if (meeting.length > 1) return null
  const room = { x: x1, y: y1 - LINE, width: x2 - x1, height: LINE }
  const over = page.words.filter(
    (word) =>
      word.x < x2 - 1 && word.x + word.width > x1 + 1 && word.base > y1 - LINE + 1 && word.base <= y1 + 1.5,
  )
  // Words at its beginning are its label; words all over it make it an underline.
  const from = Math.max(x1, ...over.map(({ x, width }) => x + width + 3))
  return x2 - from < SHORTEST_RULE || (over.length > 0 && x2 - from < (x2 - x1) / 2)
    ? null
    : { ...room, x: from, width: x2 - from }
}

/** Rows of dots or underscores, joined where they follow on each other. */
function leaders(page: PageRead): readonly Box[] {
  const found: Box[] = []
  for (const { words } of linesOf(page))
    for (const word of words) {
      const match = LEADERS.exec(word.text)
      if (!match) continue
      const letter = word.width / word.text.length
      const x = word.x + match.index * letter
      const box = { x, y: word.base - 11, width: match[0].length * letter, height: LINE - 1 }
      const last = found.at(-1)
      if (last && Math.abs(last.y - box.y) < 1 && box.x - (last.x + last.width) < 8)
        found[found.length - 1] = { ...last, width: box.x + box.width - last.x }
      else if (box.width >= 14) found.push(box)
    }
  return found
}

/** Cells that lines across and down make together, the frames' own edges among them. */
function cells(page: PageRead, frames: readonly Box[]): readonly Box[] {
  const edges = frames.flatMap(({ x, y, width, height }): PageLine[] => [
    { x1: x, x2: x + width, y1: y, y2: y },
    { x1: x, x2: x + width, y1: y + height, y2: y + height },
    { x1: x, x2: x, y1: y, y2: y + height },
    { x1: x + width, x2: x + width, y1: y, y2: y + height },
  ])
  const lines = [...page.lines, ...edges]
  const across = lines.filter(({ y1, y2, x1, x2 }) => y2 - y1 < 1 && x2 - x1 > 8).sort((a, b) => a.y1 - b.y1)
  const down = lines.filter(({ x1, x2, y1, y2 }) => x2 - x1 < 1 && y2 - y1 > 5).sort((a, b) => a.x1 - b.x1)
  if (across.length * down.length > MOST_PAIRS) return []
  const found: Box[] = []
  for (const top of across) {
    // The upright lines that come down from this one, neighbours two by two.
    const from = down.filter(
      (line) =>
        line.y1 <= top.y1 + NEAR &&
        line.y2 > top.y1 + 5 &&
        line.x1 >= top.x1 - NEAR &&
        line.x1 <= top.x2 + NEAR,
    )
    from.slice(1).forEach((right, i) => {
      const left = from[i]!
      if (right.x1 - left.x1 < TICK.least) return
      const bottom = across.find(
        (line) =>
          line.y1 > top.y1 + TICK.least &&
          line.x1 <= left.x1 + NEAR &&
          line.x2 >= right.x1 - NEAR &&
          line.y1 <= Math.min(left.y2, right.y2) + NEAR,
      )
      if (bottom) found.push({ x: left.x1, y: top.y1, width: right.x1 - left.x1, height: bottom.y1 - top.y1 })
    })
  }
  return found
}

/** Pairs of lines up to which cells are looked for: more is a drawing. */
const MOST_PAIRS = 250_000

/** The words beside a place: before it on its line, below it, above it; of a tick, those behind it. */
function labelling(page: PageRead) {
  const lines = linesOf({ words: page.words.flatMap(withoutLeaders) })
  return (box: Box, tick: boolean, others: readonly Box[]): string => {
    const onLine = lines.filter(
      ({ base }) => base > box.y + box.height * 0.25 - 2 && base < box.y + box.height + (tick ? 4 : 5),
    )
    const neighbours = others.filter(
      (other) => other !== box && other.y < box.y + box.height && other.y + other.height > box.y,
    )
    const left = Math.max(0, ...neighbours.map((other) => (other.x < box.x ? other.x + other.width : 0)))
    const right = Math.min(page.width, ...neighbours.map((other) => (other.x > box.x ? other.x : page.width)))
    const words = (test: (word: PageWord) => boolean) =>
      said(onLine.flatMap((line) => line.words.filter(test)))
    const before = words((word) => word.x >= left - 1 && word.x + word.width <= box.x + 4)
    const behind = words((word) => word.x >= box.x + box.width - 2 && word.x + word.width <= right + 1)
    const within = (from: number, to: number) =>
      said(
        lines
          .filter(({ base }) => base > from && base < to)
          .slice(0, 1)
          .flatMap((line) =>
            line.words.filter((word) => word.x + word.width > box.x - 2 && word.x < box.x + box.width),
          ),
      )
    if (tick) return behind || before
    return (
      before ||
      within(box.y + box.height + 3, box.y + box.height + 16) ||
      within(box.y - 18, box.y + 2) ||
      behind
    )
  }
}

/** A word without the dots or underscores behind it; letters are taken as equally wide. */
function withoutLeaders(word: PageWord): readonly PageWord[] {
  const match = LEADERS.exec(word.text)
  if (!match) return [word]
  const text = word.text.slice(0, match.index)
  return text ? [{ ...word, text, width: (word.width * text.length) / word.text.length }] : []
}

/** The words beside a place of a page, as its label; empty where there are none. */
export const labelBeside = (page: PageRead, box: Box, tick: boolean): string => labelling(page)(box, tick, [])

const said = (words: readonly PageWord[]): string =>
  words
    .map(({ text }) => text.replace(new RegExp(LEADERS, 'gu'), ''))
    .join(' ')
    .replace(/\s+/g, ' ')
    .trim()
    .slice(-80)
    // eslint-disable-next-line regexp/no-super-linear-move -- of 80 characters
    .replace(/[\s:;,*]+$/, '')

const kindOf = (label: string): LikelyBlank['kind'] => {
  if (/\binitials?\b/i.test(label)) return 'initials'
  if (/\b(?:signature|signed|sign here)\b/i.test(label)) return 'signature'
  return /\bdated?\b/i.test(label) ? 'date' : 'text'
}
