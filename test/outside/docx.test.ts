import {
  Document,
  Footer,
  HeadingLevel,
  ImageRun,
  LevelFormat,
  Packer,
  PageNumber,
  Paragraph,
  SimpleField,
  Table,
  TableCell,
  TableRow,
  TextRun,
} from 'docx'
import { expect } from 'chai'
import fc from 'fast-check'
import JSZip from 'jszip'
import mammoth from 'mammoth'
import type { Block, TreePart } from '#core/document/tree.ts'
import { allInlines, allParts, partText, textBlocks } from '#core/document/walk.ts'
import { merge } from '#core/merge/merge.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import { finishedText } from '#core/merge/text.ts'
import { colonySale } from '#demo/colony-sale.ts'
import { seasonAgreement } from '#demo/season-agreement.ts'
import { finishedDocx } from '#server/compose/docx/finished.ts'
import { templateDocx } from '#server/compose/docx/template.ts'
import { readDocx } from '#server/convert/docx/read.ts'
import { examples } from '#server/services/studio/proofs.ts'
import { anyTemplate } from '#test/support/templates.ts'
import { pixel } from '#test/support/picture.ts'
import { finishedText as finishedBody } from '#test/support/bodies.ts'

const text = (words: string, more = {}) => new TextRun({ text: words, ...more })

/** A document as another library writes it: styles, numbering in levels, a table, a picture, fields, a foot. */
const foreign = () =>
  Packer.toBuffer(
    new Document({
      title: 'Site permission',
      numbering: {
        config: [
          {
            reference: 'legal',
            levels: [0, 1, 2].map((level) => ({
              level,
              format: LevelFormat.DECIMAL,
              text: `%${level + 1}.`,
            })),
          },
          {
            reference: 'dots',
            levels: [0, 1].map((level) => ({ level, format: LevelFormat.BULLET, text: '•' })),
          },
        ],
      },
      sections: [
        {
          footers: {
            default: new Footer({
              children: [
                new Paragraph({
                  children: [
                    new TextRun({ children: ['Page ', PageNumber.CURRENT, ' of ', PageNumber.TOTAL_PAGES] }),
                  ],
                }),
              ],
            }),
          },
          children: [
            new Paragraph({ heading: HeadingLevel.HEADING_1, children: [text('Site permission')] }),
            new Paragraph({
              children: [
                text('For '),
                new SimpleField('MERGEFIELD "Orchard Name" \\* MERGEFORMAT', '«Orchard Name»'),
                text(' in '),
                text('{{cou', { bold: true }),
                text('nty}}'),
                text(', in '),
                text('italics', { italics: true }),
              ],
            }),
            new Paragraph({
              numbering: { reference: 'legal', level: 0 },
              children: [text('Access.', { bold: true }), text(' The keeper may enter.')],
            }),
            new Paragraph({ numbering: { reference: 'legal', level: 1 }, children: [text('At any hour.')] }),
            new Paragraph({
              numbering: { reference: 'legal', level: 0 },
              children: [text('Gates are shut.')],
            }),
            new Paragraph({ numbering: { reference: 'dots', level: 0 }, children: [text('the north gate')] }),
            new Paragraph({ numbering: { reference: 'dots', level: 1 }, children: [text('at the mill')] }),
            new Paragraph({ numbering: { reference: 'dots', level: 0 }, children: [text('the south gate')] }),
            new Paragraph({ children: [text('{{if leased}}')] }),
            new Paragraph({ children: [text('The landowner agrees.')] }),
            new Paragraph({ children: [text('{{end}}')] }),
            new Table({
              rows: [
                new TableRow({
                  tableHeader: true,
                  children: ['Stand', 'Colonies'].map(
                    (head) => new TableCell({ children: [new Paragraph(head)] }),
                  ),
                }),
                new TableRow({
                  children: [new TableCell({ columnSpan: 2, children: [new Paragraph('North field, 24')] })],
                }),
              ],
            }),
            new Paragraph({
              children: [
                new ImageRun({
                  type: 'png',
                  data: pixel,
                  transformation: { width: 300, height: 100 },
                  altText: { name: 'map', description: 'A map of the stands', title: 'map' },
                }),
              ],
            }),
          ],
        },
      ],
    }),
  )

const read = async (bytes: Uint8Array, name = 'site.docx') => {
  const found = await readDocx(name, bytes, () => true)
  if (!found.ok) throw new Error(found.problem)
  return found
}

const problemOf = async (bytes: Uint8Array) => {
  const found = await readDocx('x.docx', bytes, () => true)
  return found.ok ? null : found.problem
}

/** A complex field (ECMA-376 part 1, 17.16.18) in WordprocessingML. */
const complex = (instruction: string, result: string) =>
  `<w:r><w:fldChar w:fldCharType="begin"/></w:r>${instruction}<w:r><w:fldChar w:fldCharType="separate"/></w:r><w:r><w:t>${result}</w:t></w:r><w:r><w:fldChar w:fldCharType="end"/></w:r>`
const instruction = (words: string) => `<w:r><w:instrText xml:space="preserve">${words}</w:instrText></w:r>`

async function withBody(body: string, change: (zip: JSZip) => void = () => undefined): Promise<Uint8Array> {
  const zip = await JSZip.loadAsync(await foreign())
  const xml = await zip.file('word/document.xml')!.async('string')
  zip.file('word/document.xml', xml.replace(/<w:body>[\s\S]*<\/w:body>/, `<w:body>${body}</w:body>`))
  change(zip)
  return zip.generateAsync({ type: 'nodebuffer', compression: 'DEFLATE' })
}

describe('DOCX documents of another library', () => {
  it('become templates: headings, clauses in levels, lists, a table, a picture, fields, paper and foot', async () => {
    const { content, pictures, report } = await read(await foreign())
    const kinds = textBlocks(content.document).map(({ type }) => type)
    expect(kinds).to.deep.equal(['heading', 'paragraph', 'clause', 'clause', 'paragraph', 'table', 'image'])
    const [, , access, gates, , table, image] = textBlocks(content.document) as [
      Block,
      Block,
      Block & { type: 'clause' },
      Block & { type: 'clause' },
      Block,
      Block & { type: 'table' },
      Block & { type: 'image' },
    ]
    expect(access.content.map(({ type }) => type)).to.deep.equal(['paragraph', 'clause'])
    expect(gates.content.map(({ type }) => type)).to.deep.equal(['paragraph', 'bulletList'])
    const list = gates.content[1] as Block & { type: 'bulletList' }
    expect(list.content.map((item) => item.content.map(partText))).to.deep.equal([
      ['the north gate', 'at the mill'],
      ['the south gate'],
    ])
    expect(list.content[0]!.content[1]!.type).to.equal('bulletList')
    expect(
      table.content.map((row) => row.content.map((cell) => [cell.type, cell.attrs.colspan])),
    ).to.deep.equal([
      [
        ['tableHeader', 1],
        ['tableHeader', 1],
      ],
      [['tableCell', 2]],
    ])
    expect(image.attrs).to.include({ alt: 'A map of the stands', width: 50 })
    expect(pictures.map(({ mediaType }) => mediaType)).to.deep.equal(['image/png'])
    expect(content.outline.map(({ name }) => name)).to.deep.equal(['Orchard_Name', 'county', 'leased'])
    expect(textBlocks(content.document)[4]!.attrs.condition).to.equal('leased')
    expect(content.page).to.deep.equal({ paper: 'a4', header: '', footer: 'Page {{page}} of {{pages}}' })
    expect(content.title).to.equal('Site permission')
    expect(report.map(({ what }) => what)).to.include('Who signs is not in the document; say so under Roles')
  })

  it('keep every word that mammoth, a second reader, finds', async () => {
    const bytes = await foreign()
    const theirs = (await mammoth.extractRawText({ buffer: Buffer.from(bytes) })).value
    const { content } = await read(bytes)
    const ours = textBlocks(content.document).map(partText).join(' ')
    const words = (all: string) =>
      all
        .replace(/\{\{(if|end)[^}]*\}\}|[«»{}]/g, ' ')
        .replace(/Orchard_Name/g, ' ')
        .match(/[\p{L}\p{N}]+/gu) ?? []
    expect(words(ours)).to.deep.equal(words(theirs))
  })

  it('have IF fields as phrases, nested fields in their places (17.16.5.26)', async () => {
    const state = complex(instruction(' MERGEFIELD State '), '«State»')
    const inner = complex(instruction(' MERGEFIELD County '), '«County»')
    const field = complex(
      `${instruction(' IF ')}${state}${instruction(' = "Oregon" "at home in ')}${inner}${instruction('" "away" ')}`,
      'away',
    )
    const { content } = await read(
      await withBody(
        `<w:p><w:r><w:t xml:space="preserve">The colonies stay </w:t></w:r>${field}<w:r><w:t>.</w:t></w:r></w:p>`,
      ),
    )
    const phrases = allInlines(content.document).filter((part) => part.type === 'phrase')
    expect(phrases.map(({ attrs }) => [attrs.condition, attrs.alternative ?? false])).to.deep.equal([
      ['State = "Oregon"', false],
      [null, true],
    ])
    expect(phrases.map(partText)).to.deep.equal(['at home in {{County}}', 'away'])
  })

  it('compare numbers as numbers, and say what they cannot take', async () => {
    const total = complex(instruction(' MERGEFIELD Total '), '1')
    const { content, report } = await read(
      await withBody(
        `<w:p>${complex(`${instruction(' IF ')}${total}${instruction(' >= 80,000 "large" ')}${instruction('"small"')}`, '')}${complex(instruction(' DATE \\@ "d MMMM" '), '3 May')}</w:p>`,
      ),
    )
    expect(allInlines(content.document).find((part) => part.type === 'phrase')?.attrs.condition).to.equal(
      'Total >= 80000',
    )
    expect(content.outline.find(({ name }) => name === 'Total')?.type).to.equal('number')
    expect(report.find(({ what }) => what.includes('DATE'))?.kind).to.equal('changed')
  })

  it('have tracked changes taken as accepted, hidden text and macros left out, and all of it told', async () => {
    const bytes = await withBody(
      '<w:p><w:ins><w:r><w:t>new </w:t></w:r></w:ins><w:del><w:r><w:delText>old</w:delText></w:r></w:del><w:r><w:rPr><w:vanish/></w:rPr><w:t>hidden</w:t></w:r><w:r><w:t>words</w:t></w:r></w:p>',
      (zip) => zip.file('word/vbaProject.bin', 'a program'),
    )
    const { content, report } = await read(bytes)
    expect(textBlocks(content.document).map(partText)).to.deep.equal(['new words'])
    const told = report.map(({ what }) => what).join('; ')
    expect(told).to.contain('tracked').and.to.contain('Hidden text').and.to.contain('macro')
  })
})

describe('what other programs write into a DOCX that is easily lost', () => {
  const p = (inner: string, properties = '') =>
    `<w:p>${properties ? `<w:pPr>${properties}</w:pPr>` : ''}${inner}</w:p>`
  const words = (text: string, properties = '') =>
    `<w:r>${properties ? `<w:rPr>${properties}</w:rPr>` : ''}<w:t xml:space="preserve">${text}</w:t></w:r>`
  const section = '<w:sectPr><w:pgSz w:w="12240" w:h="15840"/></w:sectPr>'
  const told = (report: readonly { what: string }[]) => report.map(({ what }) => what).join(' | ')
  const textOf = (blocks: readonly Block[]): string => JSON.stringify(blocks)

  it('content controls around rows, cells, paragraphs and words (ECMA-376 part 1, 17.5.2)', async () => {
    const control = (name: string, kind: string, content: string, more = '') =>
      `<w:sdt><w:sdtPr><w:alias w:val="${name}"/>${more}${kind}</w:sdtPr><w:sdtContent>${content}</w:sdtContent></w:sdt>`
    const { content, report } = await read(
      await withBody(
        `${p(words('Grower: ') + control('Grower name', '<w:text/>', words('Click here'), '<w:showingPlcHdr/>'))}
        ${control('Start', '<w:date/>', p(words('1 March 2027')))}
        <w:tbl><w:tblGrid><w:gridCol w:w="4000"/><w:gridCol w:w="4000"/></w:tblGrid>
        <w:sdt><w:sdtContent><w:tr><w:tc>${p(words('row in a control'))}</w:tc><w:sdt><w:sdtContent><w:tc>${p(words('cell in a control'))}</w:tc></w:sdtContent></w:sdt></w:tr></w:sdtContent></w:sdt></w:tbl>
        ${p(control('Crop', '<w:dropDownList><w:listItem w:displayText="Apples" w:value="a"/><w:listItem w:displayText="Pears" w:value="p"/></w:dropDownList>', words('Choose'), '<w:showingPlcHdr/>'))}
        ${section}`,
      ),
    )
    const all = textOf(textBlocks(content.document))
    expect(all).to.contain('row in a control').and.to.contain('cell in a control')
    const field = (name: string) => content.outline.find((each) => each.name === name)
    expect(field('Grower_name')).to.include({ type: 'text', label: 'Grower name', help: 'Click here' })
    expect(field('Start')).to.include({ type: 'date' })
    expect(field('Crop')).to.deep.include({ type: 'choice', choices: ['Apples', 'Pears'] })
    expect(told(report)).to.contain('Content controls')
  })

  it('fields over several paragraphs keep all their words, and a condition over two is one (17.16.18)', async () => {
    const begin = '<w:r><w:fldChar w:fldCharType="begin"/></w:r>'
    const separate = '<w:r><w:fldChar w:fldCharType="separate"/></w:r>'
    const end = '<w:r><w:fldChar w:fldCharType="end"/></w:r>'
    const { content } = await read(
      await withBody(
        `${p(begin + instruction('TOC \\o') + separate + words('First line'))}${p(words('Second line') + end + words(' and after'))}
        ${p(words('Before ') + begin + instruction(' IF ') + complex(instruction('MERGEFIELD Organic'), 'yes') + instruction(' = "yes" "organic words'))}
        ${p(instruction('go on" "other words" ') + separate + words('organic words go on') + end + words(' after.'))}${section}`,
      ),
    )
    const all = textOf(textBlocks(content.document))
    expect(all).to.contain('First line').and.to.contain('Second line').and.to.contain('and after')
    expect(all).to.contain('Organic = \\"yes\\"')
    expect(all.match(/organic words/g)).to.have.length(1)
    expect(all).to.contain('other words')
  })

  it('the page number of another place is no reference to a clause, and text with a direction of its own stays', async () => {
    const { content, report } = await read(
      await withBody(
        `${p(words('See page ') + complex(instruction('PAGEREF place'), '7'))}${p(`<w:bdo w:val="rtl">${words('turned words')}</w:bdo>`)}${section}`,
      ),
    )
    expect(textOf(textBlocks(content.document)))
      .to.contain('See page 7')
      .and.to.contain('turned words')
      .and.not.to.contain('reference')
    expect(told(report)).to.contain('number of the page')
  })

  it('m², 10⁶ and CO₂ keep their figures; other raised words are told', async () => {
    const up = '<w:vertAlign w:val="superscript"/>'
    const { content, report } = await read(
      await withBody(
        `${p(words('5 m') + words('2', up) + words(', 10') + words('6', up) + words(', CO') + words('2', '<w:vertAlign w:val="subscript"/>') + words(' the 1') + words('st', up))}${section}`,
      ),
    )
    const text = textBlocks(content.document).map(partText).join()
    expect(text).to.contain('5 m², 10⁶, CO₂ the 1st')
    expect(told(report)).to.contain('Raised or lowered words')
  })

  it('letters that look as their style says (17.7.3): bold and italic carried, capitals as capitals, the rest told', async () => {
    const styled = (zip: JSZip) =>
      zip.file(
        'word/styles.xml',
        `<w:styles xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main">
          <w:style w:type="paragraph" w:styleId="Firm"><w:rPr><w:b/></w:rPr></w:style>
          <w:style w:type="paragraph" w:styleId="Firmer"><w:basedOn w:val="Firm"/><w:rPr><w:i/></w:rPr></w:style>
          <w:style w:type="paragraph" w:styleId="Head"><w:name w:val="heading 1"/><w:rPr><w:b/></w:rPr></w:style>
          <w:style w:type="character" w:styleId="Loud"><w:rPr><w:b/><w:caps/></w:rPr></w:style>
        </w:styles>`,
      )
    const of = (id: string) => `<w:pStyle w:val="${id}"/>`
    const loud = '<w:rStyle w:val="Loud"/>'
    const { content, report } = await read(
      await withBody(
        `${p(words('by paragraph'), of('Firmer'))}${p(words('plain again', '<w:b w:val="0"/>'), of('Firm'))}${p(words('both turn it on', loud), of('Firm'))}${p(words('straße', loud))}${p(words('A heading'), of('Head'))}${p(words('little', '<w:smallCaps/>'))}${section}`,
        styled,
      ),
    )
    expect(
      textBlocks(content.document).map((block) => {
        const [first] = allInlines({ type: 'doc', content: [block] })
        return first?.type === 'text'
          ? [first.text, ...(first.marks ?? []).map(({ type }) => type)]
          : [block.type]
      }),
    ).to.deep.equal([
      ['by paragraph', 'bold', 'italic'],
      ['plain again'],
      ['BOTH TURN IT ON'],
      ['STRASSE', 'bold'],
      ['A heading'],
      ['little'],
    ])
    expect(told(report)).to.contain('Small capitals')
  })

  it('large first letters, readings, frames, columns, tab stops, words of numbers and directions: carried, or told by name', async () => {
    const numbered = (zip: JSZip) =>
      zip.file(
        'word/numbering.xml',
        `<w:numbering xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:abstractNum w:abstractNumId="1"><w:lvl w:ilvl="0"><w:numFmt w:val="decimal"/><w:lvlText w:val="Article %1:"/></w:lvl></w:abstractNum><w:num w:numId="1"><w:abstractNumId w:val="1"/></w:num></w:numbering>`,
      )
    const ruby =
      '<w:r><w:ruby><w:rt><w:r><w:t>reading</w:t></w:r></w:rt><w:rubyBase><w:r><w:t>base</w:t></w:r></w:rubyBase></w:ruby></w:r>'
    const { content, report } = await read(
      await withBody(
        `${p(words('O'), '<w:framePr w:dropCap="drop" w:lines="3"/>')}${p(words('nce upon a hive'))}
        ${p(words('Before ') + ruby + words(' after'))}
        ${p(words('in a frame'), '<w:framePr w:w="2000"/>')}
        ${p(words('left') + '<w:r><w:tab/></w:r>' + words('right'), '<w:tabs><w:tab w:val="right" w:pos="9000"/></w:tabs>')}
        ${p(words('Deliveries'), '<w:numPr><w:ilvl w:val="0"/><w:numId w:val="1"/></w:numPr>')}
        ${p(words('شرط', '<w:rtl/>'), '<w:bidi/>')}
        ${p(words('ends under tracking'), '<w:rPr><w:del w:id="1" w:author="A"/></w:rPr>')}
        ${p('<w:ins w:id="2" w:author="A">' + words('added under tracking') + '</w:ins>')}
        <w:sectPr><w:pgSz w:w="12240" w:h="15840"/><w:cols w:num="2"/></w:sectPr>`,
        numbered,
      ),
    )
    const text = textBlocks(content.document).map(partText)
    expect(text[0]).to.equal('Once upon a hive')
    expect(text.join(' | ')).to.contain('Before base after').and.to.contain('added under tracking')
    expect(text.join()).to.not.contain('reading')
    for (const what of [
      'A large first letter',
      'their reading above them',
      'A frame beside the text',
      'Tab stops',
      'Numbers in the manner “Article 1:”',
      'Words that run from right to left',
      'Paragraphs that run from right to left',
      'An end of a paragraph that was deleted under tracking',
      'Text in columns',
    ])
      expect(told(report)).to.contain(what)
  })

  it('lists that are separate stay so, and numbering that begins anew is told', async () => {
    const numbered = (id: number, text: string) =>
      p(words(text), `<w:numPr><w:ilvl w:val="0"/><w:numId w:val="${id}"/></w:numPr>`)
    const definitions = (zip: JSZip) =>
      zip.file(
        'word/numbering.xml',
        `<w:numbering xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main">${[1, 2]
          .map(
            (id) =>
              `<w:abstractNum w:abstractNumId="${id}"><w:lvl w:ilvl="0"><w:numFmt w:val="lowerLetter"/></w:lvl></w:abstractNum>`,
          )
          .join(
            '',
          )}<w:abstractNum w:abstractNumId="3"><w:lvl w:ilvl="0"><w:numFmt w:val="decimal"/></w:lvl></w:abstractNum>${[
          11, 12, 13, 14,
        ]
          .map((id, i) => `<w:num w:numId="${id}"><w:abstractNumId w:val="${Math.min(i + 1, 3)}"/></w:num>`)
          .join('')}</w:numbering>`,
      )
    const { content, report } = await read(
      await withBody(
        `${numbered(11, 'a one')}${numbered(11, 'a two')}${numbered(12, 'b one')}${numbered(13, 'Clause one')}${numbered(14, 'Clause anew')}
        <w:tbl><w:tblGrid><w:gridCol w:w="4000"/></w:tblGrid><w:tr><w:tc>${numbered(13, 'in a cell')}</w:tc></w:tr></w:tbl>${section}`,
        definitions,
      ),
    )
    const lists = textBlocks(content.document).filter(({ type }) => type === 'orderedList') as (Block & {
      type: 'orderedList'
    })[]
    expect(lists.map((list) => list.content.length)).to.deep.equal([2, 1])
    expect(told(report)).to.contain('Numbering that begins anew').and.to.contain('Numbered items in a table')
    const table = JSON.stringify(textBlocks(content.document).find(({ type }) => type === 'clause'))
    expect(table).not.to.match(/"tableCell"[^]*"clause"/)
  })

  it('a main part of another name, a head in a table and from an earlier section, and paper of its own', async () => {
    const { content, report } = await read(
      await withBody(
        `${p(words('First'), '<w:sectPr><w:headerReference w:type="default" r:id="rIdHead"/><w:pgSz w:w="12240" w:h="15840"/></w:sectPr>')}
        ${p(words('Second'), '<w:jc w:val="center"/>')}<w:sectPr><w:pgSz w:w="20160" w:h="12240" w:orient="landscape"/></w:sectPr>`,
        (zip) => {
          zip.file(
            'word/head.xml',
            '<w:hdr xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:tbl><w:tr><w:tc><w:p><w:r><w:t>Left</w:t></w:r></w:p></w:tc><w:tc><w:p><w:r><w:t>Right</w:t></w:r></w:p></w:tc></w:tr></w:tbl></w:hdr>',
          )
          zip.file(
            'word/_rels/main.xml.rels',
            '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rIdHead" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/header" Target="head.xml"/></Relationships>',
          )
          zip.file(
            '_rels/.rels',
            '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="a" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="word/main.xml"/></Relationships>',
          )
        },
      ).then(renamedMain),
    )
    expect(textOf(textBlocks(content.document)))
      .to.contain('First')
      .and.to.contain('Second')
    expect(content.page?.header).to.equal('Left || Right')
    const all = told(report)
    for (const what of ['2 sections', 'lie on their side', 'in the middle']) expect(all).to.contain(what)
  })
})

/** The same document with its main part under another name. */
async function renamedMain(bytes: Uint8Array): Promise<Uint8Array> {
  const zip = await JSZip.loadAsync(bytes)
  const main = await zip.file('word/document.xml')!.async('string')
  zip.remove('word/document.xml')
  zip.file('word/main.xml', main)
  return zip.generateAsync({ type: 'nodebuffer', compression: 'DEFLATE' })
}

describe('DOCX files that are none, or mean harm', () => {
  it('are refused in words', async () => {
    expect(await problemOf(Buffer.from('plain text'))).to.contain('cannot be unpacked')
    expect(await problemOf(Buffer.from([0xd0, 0xcf, 0x11, 0xe0]))).to.contain('older kind')
    const empty = new JSZip()
    empty.file('a.txt', 'x')
    expect(await problemOf(await empty.generateAsync({ type: 'nodebuffer' }))).to.contain('word/document.xml')
    const sheet = new JSZip()
    sheet.file('xl/workbook.xml', '<x/>')
    expect(await problemOf(await sheet.generateAsync({ type: 'nodebuffer' }))).to.contain('spreadsheet')
    expect(await problemOf(await withBody('<w:p><w:r>'))).to.contain('not well-formed')
    expect(
      await problemOf(
        await withBody('', (zip) =>
          zip.file('word/document.xml', '<!DOCTYPE x [<!ENTITY a "b">]><x>&a;</x>'),
        ),
      ),
    ).to.contain('entities')
  })

  it('that unpack to more than any document has are stopped while they unpack', async () => {
    const bomb = await withBody('', (zip) => zip.file('word/document.xml', Buffer.alloc(60_000_000, 32)))
    expect(bomb.length).to.be.lessThan(1_000_000)
    expect(await problemOf(bomb)).to.contain('larger than any')
  })

  it('that refer to pictures outside lose them, and say so', async () => {
    const bytes = await withBody(
      '<w:p><w:r><w:drawing><a:blip xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships" r:link="rId77"/></w:drawing></w:r><w:r><w:t>words</w:t></w:r></w:p>',
    )
    const { report } = await read(bytes)
    expect(report.map(({ what }) => what)).to.include('A picture that lies outside of the document')
  })
})

describe('DOCX documents of ours', () => {
  for (const template of [seasonAgreement, colonySale])
    it(`${template.title}: comes back as it went out`, async () => {
      const { content, report } = await read(
        await templateDocx(template, new Map()),
        `${template.title}.docx`,
      )
      expect(content.outline).to.deep.equal(template.outline)
      expect(content.roles).to.deep.equal(template.roles)
      expect(report.filter(({ kind }) => kind === 'left out')).to.deep.equal([])
      const shape = (all: readonly Block[]) =>
        [...allParts(all)].flatMap((part) => {
          if (part.type === 'text') return []
          if (part.type === 'mergeField') return [`{{${part.attrs.field}}}`]
          const attrs = 'attrs' in part && part.attrs && 'condition' in part.attrs ? part.attrs : null
          const repeat = attrs && 'repeat' in attrs ? attrs.repeat : null
          return [[part.type, attrs?.condition, repeat].filter(Boolean).join(' ')]
        })
      expect(shape(textBlocks(content.document))).to.deep.equal(shape(textBlocks(template.document)))
    })

  it('come back whole, whatever they are: every part with its condition, format, style and rules', async function () {
    this.timeout(120_000)
    /** All there is to a text, but for ids, for widths, of which only the proportion counts, and for what says nothing. */
    const said = (part: TreePart): unknown => {
      const { attrs, ...rest } = part as { attrs?: Record<string, unknown> }
      const told = Object.entries(attrs ?? {}).filter(
        ([key, value]) =>
          !['id', 'colwidth'].includes(key) && value !== null && value !== false && value !== undefined,
      )
      return {
        ...rest,
        ...(told.length ? { attrs: Object.fromEntries(told) } : {}),
        ...('content' in part && part.content ? { content: part.content.map(said) } : {}),
      }
    }
    await fc.assert(
      fc.asyncProperty(anyTemplate, async (template) => {
        const { content } = await read(await templateDocx(template, new Map()))
        const { document, ...rest } = content
        const { document: before, ...restBefore } = template
        expect(document.content.map(said)).to.deep.equal(before.content.map(said))
        expect(rest).to.deep.include({
          outline: restBefore.outline,
          roles: restBefore.roles,
          tickGroups: restBefore.tickGroups,
          language: restBefore.language,
          page: restBefore.page,
          sending: restBefore.sending,
        })
      }),
      { numRuns: 60 },
    )
  })

  it('a finished agreement has the words of its pages, live numbers and references', async () => {
    const prepared = prepareTemplate(colonySale)
    if (!prepared.ok) throw new Error(prepared.problems[0]!.message)
    const data = {
      ...examples(colonySale),
      payment: 'in advance',
      'signer.seller.full_name': 'Ines Hallow',
      'signer.seller.email': 'ines.hallow@larkmere.example',
    }
    const { document } = merge(prepared.ready, data, 'LP-7')
    const bytes = await finishedDocx(finishedBody(document), new Map())
    const xml = await (await JSZip.loadAsync(bytes)).file('word/document.xml')!.async('string')
    expect(xml)
      .to.contain('w:numPr')
      .and.to.match(/REF c_\w+ /)
    const theirs = (await mammoth.extractRawText({ buffer: Buffer.from(bytes) })).value
    // mammoth leaves out what simple fields show, and so the numbers of references.
    const plain = finishedText(document).filter(
      (each) => each.length > 60 && !each.includes('|') && !each.includes('under clause'),
    )
    for (const paragraph of plain)
      expect(theirs.replace(/\s+/g, ' ')).to.contain(paragraph.replace(/^[\d.]+ /, '').replace(/\s+/g, ' '))
    // A third reader: the file is a sound package, each part with the checksum it was packed with.
    await JSZip.loadAsync(bytes, { checkCRC32: true })
  })
})
