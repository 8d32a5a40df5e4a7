import type { Element } from '@xmldom/xmldom'
import { type PageSetup, plainPage } from '#core/document/template.ts'
import type { InlineReader } from './inlines.ts'
import {
  anywhere,
  attribute,
  type DocxPackage,
  element,
  elements,
  type Relationship,
  through,
} from './package.ts'
import type { Remarks } from './remarks.ts'
import { inches, runningText, tabbed } from './tidy.ts'

/** The width of Letter paper in twentieths of a point. */
const POINTS_OF_LETTER = 12_240

/** Reads what a document says of its pages: paper, margins, head and foot. Lengths are twentieths of a point (17.18.81). */
export class PageReader {
  constructor(
    private readonly pack: DocxPackage,
    private readonly relationships: ReadonlyMap<string, Relationship>,
    private readonly remarks: Remarks,
    private readonly inlines: InlineReader,
  ) {}

  /** The page of the last section; its head and foot may be those of an earlier one (17.10.1). */
  async page(
    sections: readonly Element[],
  ): Promise<{ readonly setup: PageSetup; readonly textWidth: number }> {
    const section = sections.at(-1) ?? null
    if (sections.length > 1)
      this.remarks.tell('changed', `${sections.length} sections; all pages are as those of the last one`, '')
    const size = element(section, 'pgSz')
    const margins = element(section, 'pgMar')
    const width = Number(attribute(size, 'w') ?? POINTS_OF_LETTER)
    const textWidth = Math.max(
      1000,
      width - Number(attribute(margins, 'left') ?? 1440) - Number(attribute(margins, 'right') ?? 1440),
    )
    this.tellPaper(section)
    if (sections.some((each) => Number(attribute(element(each, 'cols'), 'num') ?? 1) > 1))
      this.remarks.tell('changed', 'Text in columns; it runs over the whole width now', '')
    const part = async (kind: 'headerReference' | 'footerReference') => {
      const wanted = elements(sections.findLast((each) => element(each, kind) !== null) ?? null, kind)
      const chosen = wanted.find((each) => attribute(each, 'type') === 'default') ?? wanted[0]
      if (wanted.length > 1)
        this.remarks.tell(
          'changed',
          'Different heads or feet for first or even pages; the usual one is taken',
          '',
        )
      const target = this.relationships.get(attribute(chosen ?? null, 'id') ?? '')?.target
      return target ? this.running(await this.pack.xml(target)) : null
    }
    const [header, footer] = [await part('headerReference'), await part('footerReference')]
    const setup: PageSetup = {
      paper: Math.abs(width - 11_906) < 200 ? 'a4' : 'us-letter',
      header: header ?? '',
      footer: footer ?? plainPage.footer,
    }
    return { setup, textWidth }
  }

  private tellPaper(section: Element | null): void {
    const size = element(section, 'pgSz')
    if (!size) return
    const [width, height] = [Number(attribute(size, 'w') ?? 0), Number(attribute(size, 'h') ?? 0)]
    const of = (a: number, b: number) => Math.abs(width - a) < 200 && Math.abs(height - b) < 200
    if (attribute(size, 'orient') === 'landscape' || width > height)
      this.remarks.tell('changed', 'Pages that lie on their side; they stand upright now', '')
    else if (!of(POINTS_OF_LETTER, 15_840) && !of(11_906, 16_838))
      this.remarks.tell(
        'changed',
        `Paper of ${inches(width)} by ${inches(height)} inches; it is ${Math.abs(width - 11_906) < 200 ? 'A4' : 'Letter'} now`,
        '',
      )
  }

  /** A head or foot as a pattern; its pictures belong into a document look. */
  private running(root: Element | null): string {
    if (!root) return ''
    if (anywhere(root, 'drawing') ?? anywhere(root, 'pict'))
      this.remarks.tell(
        'left out',
        'A picture in the head or foot; put it into the letterhead of a document look',
        '',
      )
    const words = (paragraph: Element) => this.inlines.paragraph(paragraph).map(runningText).join('')
    // A head or foot is often a table of one row: its cells are the parts from left to right.
    const part = (parent: Element): readonly string[] =>
      elements(parent).flatMap((child) => {
        if (child.localName === 'p') return [words(child)]
        if (child.localName === 'tbl')
          return through(child, 'tr').map((row) =>
            through(row, 'tc')
              .map((cell) => part(cell).join(' ').trim())
              .join('\t'),
          )
        return ['sdt', 'sdtContent', 'customXml', 'ins'].includes(child.localName ?? '') ? part(child) : []
      })
    return tabbed(
      part(root)
        .filter((line) => line.trim() !== '')
        .join(' '),
    )
      .slice(0, 500)
      .trim()
  }
}
