import type { ReadingBlock, ReadingDocument, ReadingRow, ReadingRun } from '#core/ceremony/reading.ts'

// A finished document as the text of a mail: for programs that show HTML, and for those that show letters only.

export const escape = (text: string) =>
  text.replace(/[&<>"']/g, (character) => `&#${character.charCodeAt(0)};`)

/** Pictures of a document by their SHA-256; in the mail they stand as parts of their own (RFC 2392). */
export const pictureId = (sha256: string) => `${sha256.slice(0, 32)}@picture`

export const picturesOf = (documents: readonly ReadingDocument[]): readonly string[] => {
  const found = new Set<string>()
  const look = (blocks: readonly ReadingBlock[]): void => {
    for (const block of blocks)
      if (block.kind === 'image') found.add(block.file)
      else if (block.kind === 'clause') look(block.blocks)
      else if (block.kind === 'list') block.items.forEach(look)
      else if (block.kind === 'table')
        block.rows.forEach(({ cells }) => cells.forEach((cell) => look(cell.blocks)))
  }
  documents.forEach(({ blocks }) => look(blocks))
  return [...found]
}

function htmlRun(run: ReadingRun): string {
  if (run.kind === 'break') return '<br>'
  if (run.kind === 'place') return escape(run.place.said)
  const wrap = (on: boolean, tag: string, inner: string) => (on ? `<${tag}>${inner}</${tag}>` : inner)
  return wrap(run.bold, 'strong', wrap(run.italic, 'em', wrap(run.underline, 'u', escape(run.text))))
}

const cellStyle = (align: string) =>
  `border:1px solid #DDD8CE;padding:4px 8px;vertical-align:top;text-align:${align}`

const htmlRow = ({ cells }: ReadingRow): string =>
  `<tr>${cells
    .map(({ blocks, colspan, rowspan, align, head }) => {
      const tag = head ? 'th' : 'td'
      return `<${tag} colspan="${colspan}" rowspan="${rowspan}" style="${cellStyle(align)}">${htmlOf(blocks)}</${tag}>`
    })
    .join('')}</tr>`

function htmlBlock(block: ReadingBlock): string {
  switch (block.kind) {
    case 'heading': {
      const level = Math.min(6, Math.max(1, block.level))
      return `<h${level} style="font-size:${[22, 18, 16][level - 1] ?? 16}px;line-height:1.3">${block.runs.map(htmlRun).join('')}</h${level}>`
    }
    case 'paragraph':
      return `<p>${block.runs.map(htmlRun).join('')}</p>`
    case 'clause':
      return `<div style="margin-left:${block.depth > 0 ? 24 : 0}px"><p style="margin-bottom:0">${escape(block.number)}</p>${htmlOf(block.blocks)}</div>`
    case 'list': {
      const tag = block.ordered ? 'ol' : 'ul'
      return `<${tag}>${block.items.map((item) => `<li>${htmlOf(item)}</li>`).join('')}</${tag}>`
    }
    case 'table':
      return `<table style="border-collapse:collapse">${block.rows.map(htmlRow).join('')}</table>`
    case 'image':
      return `<p><img src="cid:${pictureId(block.file)}" alt="${escape(block.alt)}" style="max-width:100%"></p>`
    case 'signatures':
      return ''
  }
}

const htmlOf = (blocks: readonly ReadingBlock[]): string => blocks.map(htmlBlock).join('\n')

export const documentHtml = (documents: readonly ReadingDocument[]): string =>
  documents
    .map(({ language, blocks }) => `<div lang="${escape(language)}" dir="auto">${htmlOf(blocks)}</div>`)
    .join('<hr>')

const textRun = (run: ReadingRun): string =>
  run.kind === 'break' ? '\n' : run.kind === 'place' ? run.place.said : run.text

function textBlock(block: ReadingBlock): string {
  switch (block.kind) {
    case 'heading':
    case 'paragraph':
      return block.runs.map(textRun).join('')
    case 'clause':
      return `${block.number} ${textOf(block.blocks)}`
    case 'list':
      return block.items
        .map((item, i) => `${block.ordered ? `${i + 1}.` : '-'} ${textOf(item).replaceAll('\n', '\n  ')}`)
        .join('\n')
    case 'table':
      return block.rows
        .map(({ cells }) => cells.map((cell) => textOf(cell.blocks).replaceAll('\n', ' ')).join(' | '))
        .join('\n')
    case 'image':
      return block.alt
    case 'signatures':
      return ''
  }
}

const textOf = (blocks: readonly ReadingBlock[]): string => blocks.map(textBlock).filter(Boolean).join('\n\n')

export const documentText = (documents: readonly ReadingDocument[]): string =>
  documents.map(({ blocks }) => textOf(blocks)).join('\n\n----\n\n')
