import type { PointerEvent, RefObject } from 'react'
import type { Box, FormPage } from '#core/document/tree.ts'
import { BLANK_SIZES } from '#core/form/new-form.ts'
import { frameAt, snapLines, type SnapLines, snapped } from '#core/form/snap.ts'
import { turnedRead } from '#core/form/turn.ts'
import type { usePageRead } from './page-files.ts'
import type { Handle } from './placement-box.tsx'
import type { Placing } from './placing.ts'

/** CSS pixels that a press may wander and still be a click; and that edges hold on to lines within. */
const STILL = 3
const HOLD = 5
const NO_LINES: SnapLines = { across: [], down: [] }

interface Sheet {
  readonly page: FormPage
  readonly scale: number
  /** All pages, in their order. */
  readonly root: RefObject<HTMLDivElement | null>
  readonly placing: Placing
  readonly editable: boolean
  readonly snap: boolean
  readonly read: ReturnType<typeof usePageRead>
  /** The page itself, its two guides, and the box that is being drawn. */
  readonly box: RefObject<HTMLDivElement | null>
  readonly guides: RefObject<HTMLDivElement | null>
  readonly drawn: RefObject<HTMLDivElement | null>
  readonly onFocus: () => void
}

/** What a pointer does on a page: choose, drag, pull at an edge, draw a place. Gives what a press begins. */
export function useSheetPointer({
  page,
  scale,
  root,
  placing,
  editable,
  snap,
  read,
  box,
  guides,
  drawn,
  onFocus,
}: Sheet): (event: PointerEvent<HTMLDivElement>) => void {
  const { id, turn } = page.attrs
  const lines = snap && read ? snapLines(turnedRead(read, turn)) : NO_LINES
  const at = (event: { clientX: number; clientY: number }) => {
    const { left, top } = box.current!.getBoundingClientRect()
    return { x: (event.clientX - left) / scale, y: (event.clientY - top) / scale }
  }
  const showGuides = (x: number | null, y: number | null) => {
    const [across, down] = [...(guides.current?.children ?? [])] as HTMLElement[]
    across?.style.setProperty('display', x === null ? 'none' : 'block')
    across?.style.setProperty('left', `${(x ?? 0) * scale}px`)
    down?.style.setProperty('display', y === null ? 'none' : 'block')
    down?.style.setProperty('top', `${(y ?? 0) * scale}px`)
  }
  const held = (wanted: Box, free: boolean) => {
    const found = free ? { box: wanted, x: null, y: null } : snapped(wanted, lines, HOLD / scale)
    showGuides(found.x, found.y)
    return found.box
  }

  const press = (event: PointerEvent<HTMLDivElement>) => {
    if (event.button !== 0) return
    onFocus()
    const target = event.target as HTMLElement
    const handle = target.dataset['handle'] as Handle | undefined
    const placed = target.closest<HTMLElement>('[data-placement]')
    if (target.closest('[data-find]')) return
    if (!editable) return placed ? placing.choose([placed.dataset['placement']!]) : placing.choose([])
    event.preventDefault()
    box.current!.setPointerCapture(event.pointerId)
    if (handle && placed) return pull(event, placed, handle)
    if (placed) return drag(event, placed.dataset['placement']!)
    return draw(event)
  }

  /** Follows the pointer until it is let go. */
  const follow = (
    event: PointerEvent,
    move: (now: globalThis.PointerEvent) => void,
    end: (now: globalThis.PointerEvent, moved: boolean) => void,
  ) => {
    const element = box.current!
    const from = { x: event.clientX, y: event.clientY }
    let moved = false
    const onMove = (now: globalThis.PointerEvent) => {
      moved ||= Math.hypot(now.clientX - from.x, now.clientY - from.y) > STILL
      if (moved) move(now)
    }
    const onEnd = (now: globalThis.PointerEvent) => {
      element.removeEventListener('pointermove', onMove)
      element.removeEventListener('pointerup', onEnd)
      element.removeEventListener('pointercancel', onEnd)
      showGuides(null, null)
      end(now, moved && now.type !== 'pointercancel')
    }
    element.addEventListener('pointermove', onMove)
    element.addEventListener('pointerup', onEnd)
    element.addEventListener('pointercancel', onEnd)
  }

  const drag = (event: PointerEvent, placement: string) => {
    const before = placing.state().chosen
    const fresh = !before.includes(placement)
    if (event.shiftKey) placing.toggle(placement)
    else if (fresh) placing.choose([placement])
    const start = at(event)
    const own = page.content.find(({ attrs }) => attrs.id === placement)?.attrs
    if (!own) return
    let by = { x: 0, y: 0 }
    // What is chosen, of other pages too; it is on the screen once the press is over.
    let lifted: readonly Lifted[] | null = null
    follow(
      event,
      (now) => {
        lifted ??= liftedFrom(root.current, placing.state().chosen)
        const there = at(now)
        const wanted = { ...own, x: own.x + there.x - start.x, y: own.y + there.y - start.y }
        const found = held(wanted, now.altKey)
        by = { x: found.x - own.x, y: found.y - own.y }
        for (const { layer } of lifted)
          layer.style.transform = `translate(${by.x * scale}px, ${by.y * scale}px)`
      },
      (now, moved) => {
        for (const { setDown } of lifted ?? []) setDown()
        if (!moved) {
          if (!event.shiftKey && !fresh) placing.choose([placement])
          return
        }
        const over = pageUnder(now, root.current)
        if (over && over.id !== id)
          placing.carry(over.id, by.x, by.y + offsetBetween(box.current!, over.element) / scale)
        else placing.moveBy(by.x, by.y)
      },
    )
  }

  const pull = (event: PointerEvent, element: HTMLElement, handle: Handle) => {
    const placement = element.dataset['placement']!
    const own = page.content.find(({ attrs }) => attrs.id === placement)?.attrs
    if (!own) return
    const start = at(event)
    let now: Box = own
    follow(
      event,
      (pointer) => {
        const there = at(pointer)
        now = pulled(own, handle, there.x - start.x, there.y - start.y)
        const edge = pointer.altKey ? null : snapEdges(now, handle, lines, HOLD / scale)
        now = edge?.box ?? now
        showGuides(edge?.x ?? null, edge?.y ?? null)
        Object.assign(element.style, {
          left: `${now.x * scale}px`,
          top: `${now.y * scale}px`,
          width: `${now.width * scale}px`,
          height: `${now.height * scale}px`,
        })
      },
      (_, moved) => {
        // What is on the screen goes back to what the page says; the change brings it where it belongs.
        Object.assign(element.style, {
          left: `${own.x * scale}px`,
          top: `${own.y * scale}px`,
          width: `${own.width * scale}px`,
          height: `${own.height * scale}px`,
        })
        if (moved) placing.setBox(placement, now)
      },
    )
  }

  /** A click opens the menu at the pointer; a drag draws the place first. With Shift what is inside is chosen. */
  const draw = (event: PointerEvent) => {
    const start = at(event)
    const frame = drawn.current!
    let now: Box = { ...start, width: 0, height: 0 }
    follow(
      event,
      (pointer) => {
        const there = at(pointer)
        now = {
          x: Math.min(start.x, there.x),
          y: Math.min(start.y, there.y),
          width: Math.abs(there.x - start.x),
          height: Math.abs(there.y - start.y),
        }
        Object.assign(frame.style, {
          display: 'block',
          left: `${now.x * scale}px`,
          top: `${now.y * scale}px`,
          width: `${now.width * scale}px`,
          height: `${now.height * scale}px`,
        })
      },
      (_, moved) => {
        frame.style.display = 'none'
        if (event.shiftKey) {
          const inside = page.content.filter(({ attrs }) => within(attrs, now)).map(({ attrs }) => attrs.id)
          placing.choose([...new Set([...placing.state().chosen, ...inside])])
        } else if (moved && now.width > 4 && now.height > 4) placing.open({ ...now, page: id, drawn: true })
        else if (placing.state().chosen.length && !placing.state().spot) placing.choose([])
        else {
          const frame = snap && !event.altKey && read ? frameAt(turnedRead(read, turn), start) : null
          if (frame) return placing.open({ ...frame, page: id, drawn: true })
          const { height: high } = BLANK_SIZES.text
          const wanted = { ...start, y: start.y - high / 2, ...BLANK_SIZES.text }
          placing.open({ ...held(wanted, event.altKey), page: id, drawn: false })
          showGuides(null, null)
        }
      },
    )
  }
  return press
}

const within = (inner: Box, outer: Box): boolean =>
  inner.x < outer.x + outer.width &&
  inner.x + inner.width > outer.x &&
  inner.y < outer.y + outer.height &&
  inner.y + inner.height > outer.y

interface Lifted {
  readonly layer: HTMLElement
  readonly setDown: () => void
}

/**
 * What is chosen, as a picture of itself over each page: two hundred places are moved as one layer, at the speed of one. They
 * themselves are not seen meanwhile.
 */
function liftedFrom(root: HTMLElement | null, chosen: readonly string[]): readonly Lifted[] {
  const ids = new Set(chosen)
  return [...(root?.querySelectorAll<HTMLElement>('[data-sheet]') ?? [])].flatMap((sheet) => {
    const own = [...sheet.querySelectorAll<HTMLElement>('[data-placement]')].filter((element) =>
      ids.has(element.dataset['placement']!),
    )
    if (own.length === 0) return []
    const layer = document.createElement('div')
    layer.ariaHidden = 'true'
    layer.className = 'pointer-events-none absolute inset-0 z-20 will-change-transform'
    for (const element of own) {
      const picture = element.cloneNode(true) as HTMLElement
      delete picture.dataset['placement']
      layer.append(picture)
      element.style.visibility = 'hidden'
    }
    sheet.append(layer)
    return {
      layer,
      setDown: () => {
        layer.remove()
        for (const element of own) element.style.visibility = ''
      },
    }
  })
}

/** The page that lies under the pointer. */
function pageUnder({ clientX, clientY }: globalThis.PointerEvent, root: HTMLElement | null) {
  const found = [...(root?.querySelectorAll<HTMLElement>('[data-sheet]') ?? [])].find((element) => {
    const { left, right, top, bottom } = element.getBoundingClientRect()
    return clientX >= left && clientX <= right && clientY >= top && clientY <= bottom
  })
  return found ? { id: found.dataset['sheet']!, element: found } : null
}

const offsetBetween = (from: HTMLElement, to: HTMLElement): number =>
  from.getBoundingClientRect().top - to.getBoundingClientRect().top

/** A box pulled at one of its edges or corners; its sides never turn over. */
function pulled({ x, y, width, height }: Box, handle: Handle, dx: number, dy: number): Box {
  const least = 4
  const left = handle.includes('w') ? Math.min(dx, width - least) : 0
  const top = handle.includes('n') ? Math.min(dy, height - least) : 0
  return {
    x: x + left,
    y: y + top,
    width: Math.max(least, width - left + (handle.includes('e') ? dx : 0)),
    height: Math.max(least, height - top + (handle.includes('s') ? dy : 0)),
  }
}

/** Only the edge that is pulled holds on to lines. */
function snapEdges(box: Box, handle: Handle, lines: SnapLines, reach: number) {
  const edge = {
    x: handle.includes('e') ? box.x + box.width : box.x,
    y: handle.includes('s') ? box.y + box.height : box.y,
    width: 0,
    height: 0,
  }
  const found = snapped(
    edge,
    {
      across: /[ew]/.test(handle) ? lines.across : [],
      down: /[ns]/.test(handle) ? lines.down : [],
    },
    reach,
  )
  const [dx, dy] = [found.box.x - edge.x, found.box.y - edge.y]
  return { box: pulled(box, handle, dx, dy), x: found.x, y: found.y }
}
