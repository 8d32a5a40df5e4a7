import { getDocument, GlobalWorkerOptions, type PDFDocumentProxy, PDFWorker, version } from 'pdfjs-dist'
import workerUrl from 'pdfjs-dist/build/pdf.worker.min.mjs?url'

GlobalWorkerOptions.workerSrc = workerUrl

/** Where the reader's own files lie, see `vite.config.ts`. */
const FILES = `${window.location.origin}/assets/pdfjs-${version}`

/** One worker for all documents: starting one costs more than opening a document, and is done while its bytes come. */
let worker = new PDFWorker()

/** Bytes of a file that came as base64 inside of an answer. */
export const fromBase64 = (text: string): Uint8Array =>
  Uint8Array.from(atob(text), (character) => character.charCodeAt(0))

/**
 * Opens a PDF from its bytes; the bytes are copied, because the reader takes hold of them. Its letters are drawn from
 * their outlines: giving the fonts of every new version to the browser takes 40 ms more.
 */
export function openPdf(bytes: Uint8Array): Promise<PDFDocumentProxy> {
  if (worker.destroyed) worker = new PDFWorker()
  return getDocument({
    data: bytes.slice(),
    worker,
    isEvalSupported: false,
    enableXfa: false,
    disableFontFace: true,
    standardFontDataUrl: `${FILES}/standard_fonts/`,
    cMapUrl: `${FILES}/cmaps/`,
    cMapPacked: true,
    wasmUrl: `${FILES}/wasm/`,
    iccUrl: `${FILES}/iccs/`,
  }).promise
}

/**
 * Draws a page beside what is seen, as sharp as the screen is, and gives the canvas to whoever shows it. `scale`: CSS pixels
 * of a point; `turn`: degrees, clockwise. Answers how to give it up: what is given up is not shown.
 */
export function drawPage(
  document: PDFDocumentProxy,
  page: number,
  { scale, turn }: { readonly scale: number; readonly turn?: number },
  show: (canvas: HTMLCanvasElement) => void,
): () => void {
  let stop: (() => void) | null = null
  let current = true
  void document
    .getPage(page)
    .then((found) => {
      const viewport = found.getViewport({
        scale: scale * (window.devicePixelRatio || 1),
        ...(turn === undefined ? {} : { rotation: turn }),
      })
      const canvas = window.document.createElement('canvas')
      // Whole pixels are more than the page by a part of one: stretched by that, the page keeps its measure.
      canvas.width = Math.ceil(viewport.width)
      canvas.height = Math.ceil(viewport.height)
      canvas.style.width = `${(100 * canvas.width) / viewport.width}%`
      canvas.style.height = `${(100 * canvas.height) / viewport.height}%`
      canvas.style.maxWidth = 'none'
      const task = found.render({ canvas, viewport })
      stop = () => task.cancel()
      return task.promise.then(() => {
        if (current) show(canvas)
      })
    })
    // A drawing that is cancelled because a newer one takes its place ends here.
    .catch(() => undefined)
  return () => {
    current = false
    stop?.()
  }
}

/** A place on a page, in PDF points from the top left corner; pages from 1. */
export interface PagePlace {
  readonly page: number
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

const ORIGIN = /^origin:(\d+)$/

/** Where merged parts stand in a proof: its links lead to `origin:N`. A part over two lines has two places. */
export async function originPlaces(
  document: PDFDocumentProxy,
): Promise<readonly (PagePlace & { readonly origin: number })[]> {
  const pages = await Promise.all(
    Array.from({ length: document.numPages }, (_, i) => document.getPage(i + 1)),
  )
  const found = await Promise.all(
    pages.map(async (page, i) => {
      const top = page.view[3]!
      const annotations = (await page.getAnnotations()) as {
        url?: string
        unsafeUrl?: string
        rect: [number, number, number, number]
      }[]
      return annotations.flatMap(({ url, unsafeUrl, rect: [x1, y1, x2, y2] }) => {
        const origin = ORIGIN.exec(unsafeUrl ?? url ?? '')?.[1]
        return origin === undefined
          ? []
          : [{ origin: Number(origin), page: i + 1, x: x1, y: top - y2, width: x2 - x1, height: y2 - y1 }]
      })
    }),
  )
  return found.flat()
}
