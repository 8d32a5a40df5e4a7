import { type KeyboardEvent, type ReactNode, useState } from 'react'

/** What the controls of a view of pages are called. */
export interface ViewerWords {
  readonly title: string
  readonly smaller: string
  readonly larger: string
  readonly width: string
  readonly page: string
  readonly broken: string
}

export const ENGLISH: ViewerWords = {
  title: 'Size of the pages',
  smaller: 'Smaller',
  larger: 'Larger',
  width: 'width',
  page: 'page',
  broken: 'The pages cannot be shown.',
}

/** How large pages are shown: as wide as the room, as high as it, or so many per cent of their size on paper. */
export type Zoom = 'width' | 'page' | number
/** CSS pixels of a point (CSS Values 4, absolute lengths). */
const PIXELS_OF_A_POINT = 96 / 72
const LEAST_ZOOM = 25
const MOST_ZOOM = 400
/** How large the pages of a view are: `scale` turns points into CSS pixels and is 0 until the room is known. */
export function useZoom(
  size: { readonly width: number; readonly height: number } | undefined,
  room: { readonly width: number; readonly height: number },
  words: ViewerWords = ENGLISH,
) {
  const [zoom, setZoom] = useState<Zoom>('width')
  const scale =
    size && room.width > 0
      ? typeof zoom === 'number'
        ? (zoom / 100) * PIXELS_OF_A_POINT
        : zoom === 'width'
          ? Math.min(1.6, (room.width - 32) / size.width)
          : Math.max(0.1, (room.height - 32) / size.height)
      : 0
  const shownAt = Math.round((scale / PIXELS_OF_A_POINT) * 100)
  const stepped = (by: 1 | -1) =>
    setZoom(Math.max(LEAST_ZOOM, Math.min(MOST_ZOOM, Math.round((shownAt * (by > 0 ? 1.25 : 0.8)) / 5) * 5)))
  const onKey = (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return
    const act = (
      {
        '+': () => stepped(1),
        '=': () => stepped(1),
        '-': () => stepped(-1),
        0: () => setZoom(100),
        w: () => setZoom('width'),
        p: () => setZoom('page'),
      } as Readonly<Record<string, () => void>>
    )[event.key]
    if (!act) return
    event.preventDefault()
    act()
  }
  const bar = (
    <div
      role="toolbar"
      aria-label={words.title}
      className="absolute right-4 bottom-2 flex items-center border border-hair bg-sheet text-xs text-soft"
    >
      <ZoomButton label={`${words.smaller} (-)`} onClick={() => stepped(-1)}>
        −
      </ZoomButton>
      <span className="w-9 text-center tabular-nums" aria-live="polite">
        {shownAt} %
      </span>
      <ZoomButton label={`${words.larger} (+)`} onClick={() => stepped(1)}>
        +
      </ZoomButton>
      <ZoomButton
        label={words === ENGLISH ? 'width: pages as wide as the room (w)' : `${words.width} (w)`}
        pressed={zoom === 'width'}
        onClick={() => setZoom('width')}
      >
        {words.width}
      </ZoomButton>
      <ZoomButton
        label={words === ENGLISH ? 'page: the whole page in view (p)' : `${words.page} (p)`}
        pressed={zoom === 'page'}
        onClick={() => setZoom('page')}
      >
        {words.page}
      </ZoomButton>
      <ZoomButton
        label={words === ENGLISH ? '100 %: as large as on paper (0)' : '100 % (0)'}
        pressed={zoom === 100}
        onClick={() => setZoom(100)}
      >
        100 %
      </ZoomButton>
    </div>
  )
  return { scale, stepped, onKey, bar }
}

function ZoomButton({
  label,
  pressed = false,
  onClick,
  children,
}: {
  readonly label: string
  readonly pressed?: boolean
  readonly onClick: () => void
  readonly children: ReactNode
}) {
  return (
    <button
      type="button"
      title={label}
      aria-label={label}
      aria-pressed={pressed}
      onClick={onClick}
      className={`h-6 min-w-6 px-1.5 hover:text-ink ${pressed ? 'bg-petrol-wash text-petrol' : ''}`}
    >
      {children}
    </button>
  )
}
