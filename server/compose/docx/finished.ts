import { type IParagraphOptions, PageBreak, Paragraph, type ParagraphChild } from 'docx'
import type { FinishedBlock, FinishedText, Stretch, SignaturePlace } from '#core/merge/finished.ts'
import {
  ALIGN,
  assemble,
  BULLETS,
  CLAUSES,
  type Content,
  HEADINGS,
  LETTERS,
  lineBreak,
  numberReference,
  paragraph,
  picture,
  type Picture,
  table,
  words,
} from './parts.ts'

/** A line to fill by hand, with what belongs there. */
const line = (label: string): string => `____________________ (${label})`

function runs(all: readonly Stretch[]): ParagraphChild[] {
  return all.flatMap((run): ParagraphChild[] => {
    switch (run.kind) {
      case 'break':
        return [lineBreak()]
      case 'text':
        return words(run.text, run)
      case 'reference':
        return run.target === null ? words(run.text, run) : [numberReference(run.target, run.text)]
      case 'blank': {
        const { kind, label, rules } = run.blank
        if (kind === 'choice') return words((rules.options ?? []).map((option) => `☐ ${option}`).join('  '))
        return words(kind === 'tick' ? '☐' : (rules.preset ?? line(label)))
      }
    }
  })
}

/** Where in lists and clauses a block stands. */
interface Place {
  /** Numbering the next paragraph takes, once. */
  readonly first: IParagraphOptions['numbering'] | null
  readonly bookmark: string | null
  /** Left indent in twips of what follows. */
  readonly indent: number
  readonly listDepth: number
}

const TOP: Place = { first: null, bookmark: null, indent: 0, listDepth: 0 }
const CLAUSE_INDENTS = [480, 1080, 1680] as const

const options = (place: Place, keep: boolean): IParagraphOptions => ({
  ...(place.first ? { numbering: place.first } : place.indent ? { indent: { left: place.indent } } : {}),
  ...(keep ? { keepLines: true } : {}),
})

/** Blocks in a place: only the first of them takes its number. */
function blocks(
  all: readonly FinishedBlock[],
  place: Place,
  pictures: ReadonlyMap<string, Picture>,
): Content[] {
  return all.flatMap((block, i) =>
    draw(block, i === 0 ? place : { ...place, first: null, bookmark: null }, pictures),
  )
}

function draw(block: FinishedBlock, place: Place, pictures: ReadonlyMap<string, Picture>): Content[] {
  switch (block.kind) {
    case 'heading':
      return [
        paragraph(runs(block.runs), {
          ...options(place, true),
          heading: HEADINGS[block.level - 1] ?? HEADINGS[2],
          keepNext: true,
        }),
      ]
    case 'paragraph':
      return [paragraph(runs(block.runs), options(place, block.keep), place.bookmark)]
    case 'clause':
      return blocks(
        block.blocks,
        {
          first: { reference: CLAUSES, level: block.depth - 1 },
          bookmark: block.id,
          indent: CLAUSE_INDENTS[block.depth - 1] ?? 1680,
          listDepth: place.listDepth,
        },
        pictures,
      )
    case 'list':
      return block.items.flatMap((item) =>
        blocks(
          item,
          {
            first: {
              reference: block.ordered ? LETTERS : BULLETS,
              level: Math.min(3, place.listDepth),
              instance: 1,
            },
            bookmark: null,
            indent: 480 * (place.listDepth + 2),
            listDepth: place.listDepth + 1,
          },
          pictures,
        ),
      )
    case 'table':
      return [
        table(
          block.widths,
          block.rows.map((row) => ({
            head: row.head,
            cells: row.cells.map((cell) => ({
              colspan: cell.colspan,
              rowspan: cell.rowspan,
              head: cell.head,
              content: cell.blocks.flatMap((inner) =>
                inner.kind === 'paragraph'
                  ? [paragraph(runs(inner.runs), { alignment: ALIGN[cell.align], keepNext: true })]
                  : draw(inner, TOP, pictures),
              ),
            })),
          })),
        ),
        new Paragraph({}),
      ]
    case 'image':
      return [picture(pictures.get(block.file), block.width, block.alt, block.align)]
    case 'signatures':
      return [signatures(block.parties)]
    case 'page break':
      return [new Paragraph({ children: [new PageBreak()] })]
  }
}

function signatures(parties: readonly SignaturePlace[]): Content {
  const cell = ({ label, name, title }: SignaturePlace) => ({
    colspan: 1,
    rowspan: 1,
    head: false,
    content: [label, line('Signature'), name, title, line('Date signed')]
      .filter((text) => text !== '')
      .map((text) => paragraph(words(text), { keepNext: true })),
  })
  const rows = Array.from({ length: Math.ceil(parties.length / 2) }, (_, i) =>
    parties.slice(i * 2, i * 2 + 2),
  )
  return table(
    [1, 1],
    rows.map((pair) => ({
      head: false,
      cells: [0, 1].map((at) =>
        pair[at] ? cell(pair[at]) : { colspan: 1, rowspan: 1, head: false, content: [] },
      ),
    })),
  )
}

/** A finished agreement as a DOCX file, with live numbering, references and tables. */
export const finishedDocx = (
  document: FinishedText,
  pictures: ReadonlyMap<string, Picture>,
): Promise<Uint8Array> =>
  assemble({
    title: document.title,
    language: document.language,
    paper: document.paper,
    head: document.head,
    foot: document.foot,
    content: blocks(document.blocks, TOP, pictures),
  })
