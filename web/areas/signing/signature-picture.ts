/** Bytes of a picture that are looked at here at all, and pixels of its longer side that are kept. */
const LARGEST = 5_000_000
const SIDE = 900
/** Lighter than this, on a scale to 255, it is paper. */
const PAPER = 200

export type Ink =
  { readonly ok: true; readonly picture: Blob } | { readonly ok: false; readonly large: boolean }

/** The ink of a photographed or scanned signature: paper made clear, cut to what is written, as a small PNG. */
export async function inkOf(file: Blob): Promise<Ink> {
  if (file.size > LARGEST) return { ok: false, large: true }
  try {
    const picture = await createImageBitmap(file)
    const scale = Math.min(1, SIDE / Math.max(picture.width, picture.height))
    const [width, height] = [
      Math.max(1, Math.round(picture.width * scale)),
      Math.max(1, Math.round(picture.height * scale)),
    ]
    const canvas = new OffscreenCanvas(width, height)
    const context = canvas.getContext('2d', { willReadFrequently: true })!
    context.drawImage(picture, 0, 0, width, height)
    picture.close()
    const image = context.getImageData(0, 0, width, height)
    const box = clearPaper(image)
    if (!box) return { ok: false, large: false }
    context.putImageData(image, 0, 0)
    const cut = new OffscreenCanvas(box.width, box.height)
    cut.getContext('2d')!.drawImage(canvas, -box.left, -box.top)
    return { ok: true, picture: await cut.convertToBlob({ type: 'image/png' }) }
  } catch {
    return { ok: false, large: false }
  }
}

/** Makes paper clear in place; answers the box of what is left, null where nothing is. */
export function clearPaper(image: {
  readonly data: Uint8ClampedArray
  readonly width: number
  readonly height: number
}) {
  const { data, width, height } = image
  let [left, top, right, bottom] = [width, height, -1, -1]
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 4
      const light = 0.299 * data[at]! + 0.587 * data[at + 1]! + 0.114 * data[at + 2]!
      if (light >= PAPER || data[at + 3]! < 40) {
        data[at + 3] = 0
        continue
      }
      left = Math.min(left, x)
      right = Math.max(right, x)
      top = Math.min(top, y)
      bottom = Math.max(bottom, y)
    }
  return right < 0 ? null : { left, top, width: right - left + 1, height: bottom - top + 1 }
}
