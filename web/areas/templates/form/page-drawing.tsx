import type { PDFDocumentProxy } from 'pdfjs-dist'
import { useEffect, useRef } from 'react'
import type { Turn } from '#core/document/tree.ts'
import { drawPage } from '#web/parts/pages/pdf.ts'

/** A page of a file, drawn while it is near; a new size takes the old one’s place without a flicker. */
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
    const shown = holder.current
    if (!document || !near) return shown?.replaceChildren()
    return drawPage(document, page, { scale, turn }, (canvas) => shown?.replaceChildren(canvas))
  }, [document, page, turn, scale, near])
  return <div ref={holder} className="absolute inset-0" />
}
