import { readFile, writeFile } from 'node:fs/promises'
import { createCanvas, loadImage } from '@napi-rs/canvas'
import { desc, eq } from 'drizzle-orm'
import type { App } from '#server/app/app.ts'
import { revision } from '#server/db/schema.ts'

/** Dots per inch that pages of these tests are scanned with. */
export const SCAN_DENSITY = 150

/** A picture of a page with a scrawl wherever a role has something to sign on it. */
export async function scrawled(
  app: App,
  id: string,
  role: string,
  number: number,
  page: Buffer,
): Promise<Buffer> {
  const [found] = await app.db
    .select({ blanks: revision.blanks })
    .from(revision)
    .where(eq(revision.agreementId, id))
    .orderBy(desc(revision.number))
    .limit(1)
  const points = SCAN_DENSITY / 72
  const image = await loadImage(page)
  const canvas = createCanvas(image.width, image.height)
  const context = canvas.getContext('2d')
  context.drawImage(image, 0, 0)
  context.strokeStyle = '#223a7a'
  context.lineWidth = 2.2
  for (const { page: on, role: of, kind, x, y, width, height } of found!.blanks) {
    if (on !== number || of !== role || (kind !== 'signature' && kind !== 'initials')) continue
    context.beginPath()
    for (let step = 0; step <= 40; step++)
      context.lineTo(
        (x + width * (0.15 + step / 80)) * points,
        (y + height * (0.5 + 0.35 * Math.sin(step))) * points,
      )
    context.stroke()
  }
  // At once: a canvas that nobody holds any more while it is packed is one that its memory goes from.
  return canvas.toBuffer('image/png')
}

/** The same in files, from the first page to the last there is. */
export async function scrawl(
  app: App,
  id: string,
  role: string,
  fileOf: (page: number) => string,
): Promise<void> {
  for (let number = 1; ; number++) {
    const page = await readFile(fileOf(number)).catch(() => null)
    if (!page) return
    await writeFile(fileOf(number), await scrawled(app, id, role, number, page))
  }
}
