import type { PDFDocumentProxy } from 'pdfjs-dist'
import { type ReactNode, type RefObject, useEffect, useRef, useState } from 'react'
import { drawPage, openPdf } from './pdf.ts'
import { quiet } from './quiet.ts'
import { ENGLISH, useZoom, type ViewerWords } from './zoom.tsx'

interface Props {
  readonly bytes: Uint8Array | null
  readonly label: string
  /** Drawn over a page; the scale turns points into CSS pixels, the size is in points. */
  readonly overlay?: ((page: number, scale: number, size: PageSize) => ReactNode) | undefined
  readonly onDocument?: ((document: PDFDocumentProxy) => void) | undefined
  readonly onPage?: ((page: number) => void) | undefined
  /** What its controls are called, where that is not English. */
  readonly words?: ViewerWords | undefined
}

interface PageSize {
  readonly width: number
  readonly height: number
}

interface Shown {
  readonly document: PDFDocumentProxy
  readonly sizes: readonly PageSize[]
}

const GAP = 14
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
  const { scale, onKey, bar } = useZoom(size, { width, height }, words)
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
                // The frame takes no room of the page: what is laid over it has to meet it to a hair.
                className="relative bg-white outline outline-hair"
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
                {overlay?.(i + 1, scale, size)}
              </div>
            ))}
          </div>
        )}
      </div>
      {shown && bar}
    </div>
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
    return drawPage(document, page, { scale }, (canvas) => {
      holder.current?.replaceChildren(canvas)
      onDrawn(document)
    })
  }, [document, page, scale, ready, onDrawn])
  return <div ref={holder} className="absolute inset-0 overflow-hidden" />
}
