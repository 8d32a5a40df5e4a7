import JSZip from 'jszip'
import type { AwkwardDocument } from './awkward.ts'

const words = (text: string, properties = '') =>
  `<w:r>${properties ? `<w:rPr>${properties}</w:rPr>` : ''}<w:t xml:space="preserve">${text}</w:t></w:r>`
const p = (inner: string, properties = '') =>
  `<w:p>${properties ? `<w:pPr>${properties}</w:pPr>` : ''}${inner}</w:p>`
const instruction = (text: string) => `<w:r><w:instrText xml:space="preserve">${text}</w:instrText></w:r>`
const [BEGIN, SEPARATE, END] = ['begin', 'separate', 'end'].map(
  (type) => `<w:r><w:fldChar w:fldCharType="${type}"/></w:r>`,
) as [string, string, string]
const field = (text: string, result: string) =>
  `${BEGIN}${instruction(text)}${SEPARATE}${words(result)}${END}`
const cell = (inner: string, properties = '') =>
  `<w:tc>${properties ? `<w:tcPr>${properties}</w:tcPr>` : ''}${inner}</w:tc>`
const table = (...rows: readonly string[]) =>
  `<w:tbl><w:tblGrid><w:gridCol w:w="4000"/><w:gridCol w:w="4000"/></w:tblGrid>${rows.map((row) => `<w:tr>${row}</w:tr>`).join('')}</w:tbl>`

export const documents: readonly AwkwardDocument[] = [
  {
    file: 'split-field.docx',
    fault: 'A field’s instruction is cut into several runs by spelling marks (17.16.18, 17.13.8.1).',
    body: p(
      words('Dear ') +
        BEGIN +
        instruction(' MERGE') +
        '<w:proofErr w:type="spellStart"/>' +
        instruction('FIELD  Con') +
        instruction('tact ') +
        SEPARATE +
        words('«Contact»') +
        END +
        words(', welcome'),
    ),
    keeps: ['Dear ', ', welcome'],
    fields: ['Contact'],
  },
  {
    file: 'split-marker.docx',
    fault: 'A marker in braces is cut into runs of different style.',
    body: p(`${words('For {')}${words('{grower', '<w:b/>')}${words('.name}', '<w:i/>')}${words('} alone')}`),
    keeps: ['For ', ' alone'],
    fields: ['grower.name'],
  },
  {
    file: 'simple-field.docx',
    fault: 'Fields are written as fldSimple, with a quoted name (17.16.19).',
    body: p(
      `${words('Acres: ')}<w:fldSimple w:instr=" MERGEFIELD &quot;Net acres&quot; \\* MERGEFORMAT ">${words('120')}</w:fldSimple>`,
    ),
    keeps: ['Acres: '],
    fields: ['Net_acres'],
  },
  {
    file: 'cells-joined.docx',
    fault: 'A table’s cells are joined downwards and across (17.4.84, 17.4.17).',
    body: table(
      cell(p(words('Stand')), '<w:vMerge w:val="restart"/>') + cell(p(words('North'))),
      cell(p(''), '<w:vMerge/>') + cell(p(words('South'))),
      cell(p(words('Both together')), '<w:gridSpan w:val="2"/>'),
    ),
    keeps: ['Stand', 'North', 'South', 'Both together'],
  },
  {
    file: 'table-in-cell.docx',
    fault: 'A cell holds a table of its own (17.4.65).',
    body: table(
      cell(p(words('Outer'))) +
        cell(table(cell(p(words('inner left'))) + cell(p(words('inner right')))) + p('')),
    ),
    keeps: ['Outer', 'inner left', 'inner right'],
  },
  {
    file: 'text-box.docx',
    fault: 'Words stand in a text box, twice: as drawing and as its fallback (ECMA-376 part 3, 9).',
    body: p(
      `${words('Before ')}<w:r><mc:AlternateContent xmlns:mc="http://schemas.openxmlformats.org/markup-compatibility/2006"><mc:Choice Requires="wps"><w:drawing/></mc:Choice><mc:Fallback><w:pict><v:shape xmlns:v="urn:schemas-microsoft-com:vml"><v:textbox><w:txbxContent>${p(words('boxed words'))}</w:txbxContent></v:textbox></v:shape></w:pict></mc:Fallback></mc:AlternateContent></w:r>${words(' after')}`,
    ),
    keeps: ['Before ', ' after'],
    tells: /box|drawing|shape/i,
  },
  {
    file: 'changes.docx',
    fault: 'Changes are tracked: taken as accepted (17.13.5).',
    body: p(
      `${words('The keeper ')}<w:del w:id="1" w:author="x"><w:r><w:delText>may</w:delText></w:r></w:del><w:ins w:id="2" w:author="x">${words('shall')}</w:ins>${words(' deliver.')}`,
    ),
    keeps: ['The keeper ', 'shall', ' deliver.'],
    tells: /change/i,
  },
  {
    file: 'foot-notes.docx',
    fault: 'A note stands at the foot of the page (17.11).',
    body: p(`${words('Ten colonies')}<w:r><w:footnoteReference w:id="2"/></w:r>${words(' to the acre.')}`),
    parts: {
      'word/footnotes.xml': `<w:footnotes xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:footnote w:id="2">${p(words('As counted in May.'))}</w:footnote></w:footnotes>`,
    },
    keeps: ['Ten colonies', ' to the acre.'],
    tells: /note/i,
  },
  {
    file: 'breaks-and-tabs.docx',
    fault:
      'Lines are broken inside a paragraph, words are set by tabs, and a hyphen must not break (17.3.3).',
    body: p(
      `${words('First line')}<w:r><w:br/></w:r>${words('second')}<w:r><w:tab/></w:r>${words('third')}<w:r><w:noBreakHyphen/></w:r>${words('fourth')}`,
    ),
    keeps: ['First line', 'second', 'third', 'fourth'],
  },
  {
    file: 'symbols.docx',
    fault: 'A sign comes by its place in a font, and others are outside the basic plane (17.3.3.30).',
    body: p(
      `${words('Accepted ')}<w:r><w:sym w:font="Wingdings" w:char="F0FC"/></w:r>${words(' 𝒳 and 🐝 kept')}`,
    ),
    keeps: ['Accepted ', '𝒳 and 🐝 kept'],
  },
  {
    file: 'nested-if.docx',
    fault: 'A condition stands inside another, with fields in its branches (17.16.5.26).',
    body: p(
      `${words('Rent: ')}${BEGIN}${instruction(' IF ')}${field('MERGEFIELD Leased', 'yes')}${instruction(' = "yes" "')}${BEGIN}${instruction(' IF ')}${field('MERGEFIELD Organic', 'no')}${instruction(' = "yes" "organic rent" "plain rent"')}${SEPARATE}${words('plain rent')}${END}${instruction('" "no rent"')}${SEPARATE}${words('plain rent')}${END}`,
    ),
    keeps: ['Rent: ', 'organic rent', 'plain rent', 'no rent'],
    fields: ['Leased', 'Organic'],
    alone: 'the second reader has the results of the inner fields run together',
  },
  {
    file: 'hidden.docx',
    fault: 'Words are hidden, and a comment hangs on others (17.3.2.41, 17.13.4).',
    body: p(
      `${words('Seen ')}${words('not to be seen', '<w:vanish/>')}<w:commentRangeStart w:id="1"/>${words('and remarked on')}<w:commentRangeEnd w:id="1"/><w:r><w:commentReference w:id="1"/></w:r>`,
    ),
    keeps: ['Seen ', 'and remarked on'],
    tells: /hidden/i,
  },
]

/** A document's bytes: the least package a word processor opens (ECMA-376 part 2), with these parts. */
export async function documentBytes({ body, parts = {} }: AwkwardDocument): Promise<Uint8Array> {
  const zip = new JSZip()
  const relationship = (id: string, type: string, target: string) =>
    `<Relationship Id="${id}" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/${type}" Target="${target}"/>`
  const relationships = (inner: string) =>
    `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">${inner}</Relationships>`
  zip.file(
    '[Content_Types].xml',
    '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/></Types>',
  )
  zip.file('_rels/.rels', relationships(relationship('rId1', 'officeDocument', 'word/document.xml')))
  zip.file(
    'word/_rels/document.xml.rels',
    relationships(
      Object.keys(parts)
        .map((path, i) =>
          relationship(`r${i}`, path.replace(/^word\/|\.xml$/g, ''), path.replace(/^word\//, '')),
        )
        .join(''),
    ),
  )
  zip.file(
    'word/document.xml',
    `<w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body>${body}<w:sectPr><w:pgSz w:w="12240" w:h="15840"/></w:sectPr></w:body></w:document>`,
  )
  for (const [path, xml] of Object.entries(parts)) zip.file(path, xml)
  return zip.generateAsync({ type: 'uint8array', compression: 'DEFLATE' })
}
