import type { PDFDocumentProxy } from 'pdfjs-dist'
import { useEffect, useRef } from 'react'
import type { Turn } from '#core/document/tree.ts'

/** A page of a file, drawn once it is near; a new size takes the old one’s place without a flicker. */
export function PageDrawing({
  document,
  page,
  turn,
  scale,
  near,
}: {
  readonly document: PDFDocumentProxy | null
  readonly page: number
  readonly turn: Turn
  /** CSS pixels of a point. */
  readonly scale: number
  readonly near: boolean
}) {
  const holder = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (!document || !near) return
    let stop: (() => void) | null = null
    let current = true
    void document
      .getPage(page)
      .then((found) => {
        const viewport = found.getViewport({ scale: scale * (window.devicePixelRatio || 1), rotation: turn })
        const canvas = window.document.createElement('canvas')
        canvas.width = Math.floor(viewport.width)
        canvas.height = Math.floor(viewport.height)
        canvas.style.width = '100%'
        canvas.style.height = '100%'
        const task = found.render({ canvas, viewport })
        stop = () => task.cancel()
        return task.promise.then(() => {
          if (current) holder.current?.replaceChildren(canvas)
        })
      })
      // A drawing that is cancelled because a newer one takes its place ends here.
      .catch(() => undefined)
    return () => {
      current = false
      stop?.()
    }
  }, [document, page, turn, scale, near])
  return <div ref={holder} className="absolute inset-0" />
}
