import type { KeyboardEvent } from 'react'
import type { FormPage } from '#core/document/tree.ts'
import type { Placing } from './placing.ts'

const STEP = { plain: 1, far: 10, fine: 0.25 } as const

/** What a key does on the pages; false where it does nothing. */
export function keyAct(
  event: KeyboardEvent,
  placing: Placing,
  pages: readonly FormPage[],
  inView: string | null,
  show: (id: string) => void,
): boolean {
  const { chosen, spot } = placing.state()
  const command = event.ctrlKey || event.metaKey
  const arrows: Readonly<Record<string, readonly [number, number]>> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  }
  const arrow = arrows[event.key]
  const by = event.shiftKey ? STEP.far : event.altKey ? STEP.fine : STEP.plain
  if (arrow && chosen.length) return (placing.moveBy(arrow[0] * by, arrow[1] * by, 'nudge'), true)
  if (command && event.key === 'd')
    return (placing.copy(), inView && placing.paste(pageOf(pages, chosen) ?? inView), true)
  if (command && event.key === 'c' && chosen.length) return (placing.copy(), true)
  if (command && event.key === 'v' && inView) return (placing.paste(pageOf(pages, chosen) ?? inView), true)
  if (command && event.key === 'a') {
    const page = pages.find(({ attrs }) => attrs.id === (pageOf(pages, chosen) ?? inView))
    placing.choose(page?.content.map(({ attrs }) => attrs.id) ?? [])
    return true
  }
  if (command) return false
  if ((event.key === 'Delete' || event.key === 'Backspace') && chosen.length) return (placing.remove(), true)
  if (event.key === 'Escape' && (chosen.length || spot)) return (placing.choose([]), true)
  if (event.key === 'Tab') return tab(event.shiftKey ? -1 : 1, placing, pages, show)
  if (event.key === 'Enter' && chosen.length === 0 && inView) {
    // Without a pointer a place begins in the middle of the page, and is moved by the arrows.
    const page = pages.find(({ attrs }) => attrs.id === inView)!.attrs
    placing.open({
      page: inView,
      x: page.width / 2 - 70,
      y: page.height / 2,
      width: 140,
      height: 15,
      drawn: false,
    })
    return true
  }
  return false
}

const pageOf = (pages: readonly FormPage[], chosen: readonly string[]): string | null =>
  pages.find(({ content }) => content.some(({ attrs }) => attrs.id === chosen[0]))?.attrs.id ?? null

/** From place to place in the order a reader meets them; at either end the focus goes on. */
function tab(by: 1 | -1, placing: Placing, pages: readonly FormPage[], show: (id: string) => void): boolean {
  const inOrder = pages.flatMap(({ content }) =>
    [...content].sort((a, b) => a.attrs.y - b.attrs.y || a.attrs.x - b.attrs.x).map(({ attrs }) => attrs.id),
  )
  const [now] = placing.state().chosen
  const at = now === undefined ? (by > 0 ? -1 : inOrder.length) : inOrder.indexOf(now)
  const next = inOrder[at + by]
  if (next === undefined) return false
  placing.choose([next])
  show(next)
  return true
}
