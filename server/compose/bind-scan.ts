import { PDFDocument } from 'pdf-lib'

/** Pictures of pages as one PDF, each as large as the page it was printed from, in points. */
export async function bindScan(
  pictures: readonly { readonly picture: Uint8Array; readonly width: number; readonly height: number }[],
  title: string,
  at: Date,
): Promise<Uint8Array> {
  const document = await PDFDocument.create({ updateMetadata: false })
  for (const { picture, width, height } of pictures) {
    const image = await document.embedJpg(picture)
    // A photograph has whatever shape it has: it is fitted into the page.
    const scale = Math.min(width / image.width, height / image.height)
    const [w, h] = [image.width * scale, image.height * scale]
    const page = document.addPage([width, height])
    page.drawImage(image, { x: (width - w) / 2, y: (height - h) / 2, width: w, height: h })
  }
  document.setTitle(title)
  document.setCreationDate(at)
  document.setModificationDate(at)
  return document.save()
}
