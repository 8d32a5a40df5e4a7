import { PDFDocument, type PDFFont, type PDFPage, rgb, StandardFonts } from 'pdf-lib'

/** Writes a printed form, line by line, as an authority's own program would have made it. Points; y from the top. */
export class SheetWriter {
  private constructor(
    readonly document: PDFDocument,
    private readonly plain: PDFFont,
    private readonly bold: PDFFont,
    private readonly size: readonly [number, number],
  ) {
    this.page = document.addPage([...size])
  }
  page: PDFPage
  y = 64

  static async open(size: readonly [number, number] = [612, 792]): Promise<SheetWriter> {
    const document = await PDFDocument.create({ updateMetadata: false })
    const at = new Date(Date.UTC(2026, 0, 5))
    document.setCreationDate(at)
    document.setModificationDate(at)
    const [plain, bold] = [
      await document.embedFont(StandardFonts.TimesRoman),
      await document.embedFont(StandardFonts.TimesRomanBold),
    ]
    return new SheetWriter(document, plain, bold, size)
  }

  nextPage(): this {
    this.page = this.document.addPage([...this.size])
    this.y = 64
    return this
  }

  title(text: string): this {
    this.text(text, 72, 16, this.bold)
    this.y += 26
    return this
  }

  heading(text: string): this {
    this.y += 8
    this.text(text, 72, 11.5, this.bold)
    this.y += 18
    return this
  }

  /** Words over the whole width, broken where they have to be. */
  paragraph(text: string): this {
    const size = 10.5
    let line = ''
    for (const word of text.split(' ')) {
      const longer = line ? `${line} ${word}` : word
      if (this.plain.widthOfTextAtSize(longer, size) > this.size[0] - 144 && line) {
        this.text(line, 72, size)
        this.y += 14
        line = word
      } else line = longer
      if (this.y > this.size[1] - 80) this.nextPage()
    }
    this.text(line, 72, size)
    this.y += 20
    return this
  }

  /** A label with a rule behind it. */
  ruled(label: string, x = 72, to = this.size[0] - 72): this {
    const size = 10.5
    this.text(label, x, size)
    const from = x + this.plain.widthOfTextAtSize(label, size) + 5
    this.line(from, to)
    return this
  }

  /** A label with dots behind it. */
  dotted(label: string, x = 72, to = this.size[0] - 72): this {
    const size = 10.5
    const dots = Math.floor(
      (to - x - this.plain.widthOfTextAtSize(`${label} `, size)) / this.plain.widthOfTextAtSize('.', size),
    )
    this.text(`${label} ${'.'.repeat(dots)}`, x, size)
    return this
  }

  /** A square with words behind it. */
  tick(label: string, x = 72): this {
    this.page.drawRectangle({
      x,
      y: this.size[1] - this.y - 1,
      width: 9,
      height: 9,
      borderWidth: 0.8,
      borderColor: rgb(0, 0, 0),
    })
    this.text(label, x + 15, 10.5)
    return this
  }

  /** A rule with words below it. */
  under(label: string, from: number, to: number): this {
    this.line(from, to)
    const before = this.y
    this.y += 11
    this.text(label, from, 8.5)
    this.y = before
    return this
  }

  /** A table with lines all round: a row of heads, then so many empty ones. */
  grid(heads: readonly string[], widths: readonly number[], rows: number, height = 20): this {
    const top = this.y - 12
    const wide = widths.reduce((sum, width) => sum + width, 0)
    for (let row = 0; row <= rows + 1; row++) {
      const y = this.size[1] - (top + row * height)
      this.page.drawLine({ start: { x: 72, y }, end: { x: 72 + wide, y }, thickness: 0.6 })
    }
    let x = 72
    for (const width of [0, ...widths]) {
      x += width
      this.page.drawLine({
        start: { x, y: this.size[1] - top },
        end: { x, y: this.size[1] - (top + (rows + 1) * height) },
        thickness: 0.6,
      })
    }
    x = 72
    heads.forEach((head, i) => {
      this.text(head, x + 4, 9)
      x += widths[i]!
    })
    this.y = top + (rows + 1) * height + 22
    return this
  }

  down(by: number): this {
    this.y += by
    return this
  }

  text(text: string, x: number, size: number, font = this.plain): void {
    this.page.drawText(text, { x, y: this.size[1] - this.y, size, font })
  }

  private line(from: number, to: number): void {
    const y = this.size[1] - this.y - 2
    this.page.drawLine({ start: { x: from, y }, end: { x: to, y }, thickness: 0.7 })
  }

  async bytes(): Promise<Uint8Array> {
    return this.document.save({ useObjectStreams: false })
  }
}
