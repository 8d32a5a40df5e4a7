import type { PDFDocumentProxy } from 'pdfjs-dist'
import { useEffect, useRef, useState } from 'react'
import type { KeyboardEvent, ReactNode, RefObject } from 'react'
import { openPdf } from './pdf.ts'
import { quiet } from './quiet.ts'

interface Props {
  readonly bytes: Uint8Array | null
  readonly label: string
  /** Drawn over a page; the scale turns points into CSS pixels. */
  readonly overlay?: ((page: number, scale: number) => ReactNode) | undefined
  readonly onDocument?: ((document: PDFDocumentProxy) => void) | undefined
  readonly onPage?: ((page: number) => void) | undefined
  /** What its controls are called, where that is not English. */
  readonly words?: ViewerWords | undefined
}

interface ViewerWords {
  readonly title: string
  readonly smaller: string
  readonly larger: string
  readonly width: string
  readonly page: string
  readonly broken: string
}

const ENGLISH: ViewerWords = {
  title: 'Size of the pages',
  smaller: 'Smaller',
  larger: 'Larger',
  width: 'width',
  page: 'page',
  broken: 'The pages cannot be shown.',
}

interface Shown {
  readonly document: PDFDocumentProxy
  readonly sizes: readonly { readonly width: number; readonly height: number }[]
}

const GAP = 14
/** How large pages are shown: as wide as the room, as high as it, or so many per cent of their size on paper. */
export type Zoom = 'width' | 'page' | number
/** CSS pixels of a point (CSS Values 4, absolute lengths). */
const PIXELS_OF_A_POINT = 96 / 72
const LEAST_ZOOM = 25
const MOST_ZOOM = 400
/** Milliseconds that new pages give way to keys being typed. */
const MOST_WAIT = 600

/** Finished pages, as wide as the room there is; a new version takes the place of the old one without a flicker. */
export function ProofViewer({ bytes, label, overlay, onDocument, onPage, words = ENGLISH }: Props) {
  const scroller = useRef<HTMLDivElement>(null)
  const inView = useRef(1)
  const [drawn, setDrawn] = useState<PDFDocumentProxy | null>(null)
  const [shown, setShown] = useState<Shown | null>(null)
  const [fault, setFault] = useState(false)
  const [width, setWidth] = useState(0)
  const [height, setHeight] = useState(0)
  const [zoom, setZoom] = useState<Zoom>('width')
  useEffect(() => {
    if (!scroller.current) return
    const observer = new ResizeObserver(([entry]) => {
      setWidth(Math.floor(entry!.contentRect.width))
      setHeight(Math.floor(entry!.contentRect.height))
    })
    observer.observe(scroller.current)
    return () => observer.disconnect()
  }, [])
  const listeners = useRef({ onDocument })
  useEffect(() => {
    listeners.current = { onDocument }
  })
  useEffect(() => {
    if (!bytes) return
    let current = true
    quiet(MOST_WAIT)
      .then(() => (current ? openPdf(bytes) : null))
      .then(async (document) => {
        if (!document) return
        const pages = await Promise.all(
          Array.from({ length: document.numPages }, (_, i) => document.getPage(i + 1)),
        )
        if (!current) return void document.loadingTask.destroy()
        const sizes = pages.map(({ view }) => ({ width: view[2]!, height: view[3]! }))
        setFault(false)
        setShown((before) => {
          if (before) setTimeout(() => void before.document.loadingTask.destroy(), 1000)
          return { document, sizes }
        })
      })
      .catch(() => current && setFault(true))
    return () => {
      current = false
    }
  }, [bytes])
  useEffect(() => {
    if (drawn) listeners.current.onDocument?.(drawn)
  }, [drawn])
  const [size] = shown?.sizes ?? []
  const scale =
    size && width > 0
      ? typeof zoom === 'number'
        ? (zoom / 100) * PIXELS_OF_A_POINT
        : zoom === 'width'
          ? Math.min(1.6, (width - 32) / size.width)
          : Math.max(0.1, (height - 32) / size.height)
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
  const report = () => {
    const box = scroller.current
    if (!box) return
    const pages = [...box.querySelectorAll<HTMLElement>('[data-page]')]
    const top = box.getBoundingClientRect().top
    const found = pages.findLast((page) => page.getBoundingClientRect().top - top < box.clientHeight / 2)
    if (!found) return
    inView.current = Number(found.dataset['page'])
    onPage?.(inView.current)
  }
  return (
    <div className="relative h-full">
      <div
        ref={scroller}
        onScroll={report}
        onKeyDown={onKey}
        role="document"
        aria-label={label}
        tabIndex={0}
        className="h-full overflow-auto bg-wash outline-none"
      >
        {fault && <p className="p-6 text-brick">{words.broken}</p>}
        {shown && scale > 0 && (
          <div className="mx-auto flex w-fit flex-col py-4" style={{ gap: GAP }}>
            {shown.sizes.map((size, i) => (
              <div
                key={i}
                data-page={i + 1}
                className="relative border border-hair bg-white"
                style={{ width: size.width * scale, height: size.height * scale }}
              >
                <PageCanvas
                  document={shown.document}
                  page={i + 1}
                  scale={scale}
                  root={scroller}
                  first={i + 1 === Math.min(inView.current, shown.sizes.length)}
                  go={drawn === shown.document}
                  onDrawn={setDrawn}
                />
                {overlay?.(i + 1, scale)}
              </div>
            ))}
          </div>
        )}
      </div>
      {shown && (
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
      )}
    </div>
  )
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

interface PageProps {
  readonly document: PDFDocumentProxy
  readonly page: number
  readonly scale: number
  readonly root: RefObject<HTMLDivElement | null>
  /** The page in view is drawn first; the others wait for its `onDrawn`. */
  readonly first: boolean
  readonly go: boolean
  readonly onDrawn: (document: PDFDocumentProxy) => void
}

/** Draws a page when it comes near; draws beside the visible canvas and swaps, so that nothing blinks. */
function PageCanvas({ document, page, scale, root, first, go, onDrawn }: PageProps) {
  const holder = useRef<HTMLDivElement>(null)
  const [near, setNear] = useState(page <= 2)
  const ready = near && (first || go)
  useEffect(() => {
    if (near || !holder.current) return
    const observer = new IntersectionObserver(([entry]) => entry!.isIntersecting && setNear(true), {
      root: root.current,
      rootMargin: '600px',
    })
    observer.observe(holder.current)
    return () => observer.disconnect()
  }, [near, root])
  useEffect(() => {
    if (!ready) return
    let stop: (() => void) | null = null
    let current = true
    void document
      .getPage(page)
      .then((found) => {
        const ratio = window.devicePixelRatio || 1
        const viewport = found.getViewport({ scale: scale * ratio })
        const canvas = window.document.createElement('canvas')
        canvas.width = Math.floor(viewport.width)
        canvas.height = Math.floor(viewport.height)
        canvas.style.width = '100%'
        canvas.style.height = '100%'
        const task = found.render({ canvas, viewport })
        stop = () => task.cancel()
        return task.promise.then(() => {
          if (!current) return
          holder.current?.replaceChildren(canvas)
          onDrawn(document)
        })
      })
      // A drawing that is cancelled because a newer one takes its place ends here.
      .catch(() => undefined)
    return () => {
      current = false
      stop?.()
    }
  }, [document, page, scale, ready, onDrawn])
  return <div ref={holder} className="absolute inset-0" />
}
