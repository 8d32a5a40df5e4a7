import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import { type Canvas, createCanvas } from '@napi-rs/canvas'

// What the programs share that draw what came back from paper.

const assets = dirname(createRequire(import.meta.url).resolve('pdfjs-dist/package.json'))

/** How a PDF is opened to be drawn: with the faces and decoders that ship with the library, and nothing of it run. */
export const PDF_OPTIONS = {
  standardFontDataUrl: join(assets, 'standard_fonts/'),
  wasmUrl: join(assets, 'wasm/'),
  isEvalSupported: false,
  verbosity: 0,
} as const

/** A canvas on white paper. */
export function drawn(width: number, height: number, draw: (canvas: Canvas) => void): Canvas {
  const canvas = createCanvas(Math.max(1, width), Math.max(1, height))
  const context = canvas.getContext('2d')
  context.fillStyle = '#fff'
  context.fillRect(0, 0, canvas.width, canvas.height)
  draw(canvas)
  return canvas
}
