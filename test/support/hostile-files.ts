import JSZip from 'jszip'

/** Small files that ask for much. */

const ODS_HEAD = `<?xml version="1.0"?><office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"><office:body><office:spreadsheet><table:table table:name="A">`
const ODS_FOOT = '</table:table></office:spreadsheet></office:body></office:document-content>'

export async function ods(rows: string): Promise<Uint8Array> {
  const zip = new JSZip()
  zip.file('mimetype', 'application/vnd.oasis.opendocument.spreadsheet', { compression: 'STORE' })
  zip.file('content.xml', ODS_HEAD + rows + ODS_FOOT)
  return zip.generateAsync({ type: 'uint8array', compression: 'DEFLATE' })
}

const cell = (attributes: string, text = 'x') =>
  `<table:table-cell ${attributes} office:value-type="string"><text:p>${text}</text:p></table:table-cell>`

export interface XlsxParts {
  readonly sheet?: string
  readonly styles?: string
  readonly strings?: string
  readonly workbook?: string
}

export async function xlsx({
  sheet = '<row r="1"><c r="A1" t="inlineStr"><is><t>Name</t></is></c></row>',
  styles,
  strings,
  workbook = '',
}: XlsxParts): Promise<Uint8Array> {
  const main = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main'
  const zip = new JSZip()
  zip.file(
    '[Content_Types].xml',
    '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>',
  )
  zip.file(
    'xl/workbook.xml',
    `<workbook xmlns="${main}" xmlns:r="r"><sheets><sheet name="A" sheetId="1" r:id="rId1"/></sheets>${workbook}</workbook>`,
  )
  zip.file(
    'xl/_rels/workbook.xml.rels',
    '<Relationships><Relationship Id="rId1" Target="worksheets/sheet1.xml"/></Relationships>',
  )
  zip.file(
    'xl/worksheets/sheet1.xml',
    `<worksheet xmlns="${main}"><sheetData>${sheet}</sheetData></worksheet>`,
  )
  if (styles) zip.file('xl/styles.xml', styles)
  if (strings) zip.file('xl/sharedStrings.xml', strings)
  return zip.generateAsync({ type: 'uint8array', compression: 'DEFLATE' })
}

export async function docx(body: string): Promise<Uint8Array> {
  const zip = new JSZip()
  zip.file(
    '[Content_Types].xml',
    '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/></Types>',
  )
  zip.file(
    'word/document.xml',
    `<w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body>${body}</w:body></w:document>`,
  )
  return zip.generateAsync({ type: 'uint8array', compression: 'DEFLATE' })
}

const paragraph = (text: string) => `<w:p><w:r><w:t>${text}</w:t></w:r></w:p>`
const nested = (open: string, close: string, times: number, inner: string) =>
  open.repeat(times) + inner + close.repeat(times)

/** Sheets, each with what may be said of it: the words of a refusal, or null where it is taken. */
export const hostileSheets = async (): Promise<
  readonly { readonly name: string; readonly bytes: Uint8Array; readonly says: RegExp | null }[]
> => [
  {
    name: 'columns-without-end.ods',
    bytes: await ods(
      `<table:table-row><table:table-cell table:number-columns-repeated="2000000000"/>${cell('')}</table:table-row>`,
    ),
    says: /columns are the most/,
  },
  {
    name: 'columns-past-numbers.ods',
    bytes: await ods(
      `<table:table-row><table:table-cell table:number-columns-repeated="1e999"/>${cell('')}</table:table-row>`,
    ),
    says: null,
  },
  {
    name: 'cells-alike.ods',
    bytes: await ods(
      `<table:table-row>${cell('table:number-columns-repeated="99999999"')}</table:table-row>`,
    ),
    says: /columns are the most/,
  },
  {
    name: 'rows-and-cells-alike.ods',
    bytes: await ods(
      `<table:table-row table:number-rows-repeated="99990">${cell('table:number-columns-repeated="500"')}</table:table-row>`,
    ),
    says: /cells/,
  },
  {
    name: 'spaces-without-end.ods',
    bytes: await ods(`<table:table-row>${cell('', 'a<text:s text:c="500000000"/>b')}</table:table-row>`),
    says: null,
  },
  {
    name: 'many-spaces.ods',
    bytes: await ods(
      `<table:table-row>${cell('', 'a<text:s text:c="1000"/>'.repeat(2000))}</table:table-row>`,
    ),
    says: /characters/,
  },
  {
    name: 'joined-without-end.ods',
    bytes: await ods(
      `<table:table-row>${cell('table:number-columns-spanned="999999999" table:number-rows-spanned="999999999"').repeat(50)}</table:table-row>`.repeat(
        100,
      ),
    ),
    says: null,
  },
  {
    name: 'far-away.xlsx',
    bytes: await xlsx({ sheet: '<row r="1"><c r="ZZZZZZ2"><v>1</v></c></row>' }),
    says: /there is no such place/,
  },
  {
    name: 'far-right.xlsx',
    bytes: await xlsx({ sheet: '<row r="1"><c r="XFD1"><v>1</v></c></row>' }),
    says: /columns are the most/,
  },
  {
    name: 'far-down.xlsx',
    bytes: await xlsx({
      sheet: '<row r="1e999"><c r="A1"><v>1</v></c></row><row r="99999999"><c r="A2"><v>1</v></c></row>',
    }),
    says: /rows are the most/,
  },
  {
    name: 'format.xlsx',
    bytes: await xlsx({
      styles: `<styleSheet><numFmts><numFmt numFmtId="200" formatCode="${'['.repeat(60_000)}"/></numFmts><cellXfs><xf numFmtId="200"/></cellXfs></styleSheet>`,
    }),
    says: null,
  },
  {
    name: 'name.xlsx',
    bytes: await xlsx({
      workbook: `<definedNames><definedName name="a">'${"''".repeat(60_000)}!A</definedName></definedNames>`,
    }),
    says: null,
  },
  { name: 'line-feeds.csv', bytes: Buffer.from(`a,b\n${'\n'.repeat(60_000)}c,d`), says: null },
  { name: 'quotes.csv', bytes: Buffer.from(`a,b\n${'"'.repeat(60_001)}`), says: /quotation mark/ },
  {
    name: 'spaces.csv',
    bytes: Buffer.from(`a,b\n${' '.repeat(30_000)}x,(${' '.repeat(30_000)}\n`),
    says: null,
  },
  { name: 'digits.csv', bytes: Buffer.from(`a,b\n${'1'.repeat(30_000)},${'1,'.repeat(200)}\n`), says: null },
  {
    name: 'constructor.csv',
    bytes: Buffer.from('constructor,__proto__,toString\n1,2,3\n4,5,6\n'),
    says: null,
  },
  { name: 'deep.json', bytes: Buffer.from('['.repeat(200_000)), says: /JSON/ },
  {
    name: 'deep-object.json',
    bytes: Buffer.from(`[${'{"a":'.repeat(5000)}1${'}'.repeat(5000)}]`),
    says: /nested|JSON/,
  },
  {
    name: 'names.json',
    bytes: Buffer.from(JSON.stringify(Array.from({ length: 2000 }, (_, i) => ({ [`n${i}`]: i })))),
    says: /columns are the most/,
  },
  { name: 'nothing.xlsx', bytes: Buffer.from('PK\u0003\u0004 and nothing else'), says: /damaged/ },
  { name: 'numbers-alone.csv', bytes: Buffer.from('1,2\n3,4\n'), says: null },
]

export const hostileDocuments = async (): Promise<
  readonly { readonly name: string; readonly bytes: Uint8Array }[]
> => [
  {
    name: 'deep tables',
    bytes: await docx(nested('<w:tbl><w:tr><w:tc>', '</w:tc></w:tr></w:tbl>', 3000, paragraph('x'))),
  },
  { name: 'deep runs', bytes: await docx(nested('<w:ins>', '</w:ins>', 20_000, paragraph('x'))) },
  { name: 'paragraphs', bytes: await docx(paragraph('word').repeat(200_000)) },
  {
    name: 'fields',
    bytes: await docx(`<w:p>${'<w:r><w:fldChar w:fldCharType="begin"/></w:r>'.repeat(20_000)}</w:p>`),
  },
  { name: 'braces', bytes: await docx(paragraph('{{'.repeat(20_000))) },
  { name: 'braces and spaces', bytes: await docx(paragraph(`{{${' '.repeat(30_000)}`)) },
  { name: 'no body', bytes: await docx('') },
  { name: 'no zip', bytes: Buffer.from('PK nothing') },
]

/** Pictures that are to be refused, or drawn within their time. */
export const hostilePictures = (
  pixel: Uint8Array,
): readonly { readonly name: string; readonly bytes: Uint8Array }[] => {
  const svg = (inner: string) =>
    Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="10" height="10">${inner}</svg>`,
    )
  const doubled = Array.from(
    { length: 40 },
    (_, i) => `<g id="g${i + 1}"><use xlink:href="#g${i}"/><use xlink:href="#g${i}"/></g>`,
  ).join('')
  return [
    { name: 'comments', bytes: Buffer.from(`${'<!---->'.repeat(30)}x`) },
    { name: 'many comments', bytes: Buffer.from(`${'<!-- -->'.repeat(50_000)}<svg/>`) },
    { name: 'deep groups', bytes: svg(nested('<g>', '</g>', 60_000, '<path d="M0 0"/>')) },
    {
      name: 'uses of uses',
      bytes: svg(`<g id="g0"><path d="M0 0L9 9"/></g>${doubled}<use xlink:href="#g40"/>`),
    },
    {
      name: 'circle of uses',
      bytes: svg('<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g><use href="#a"/>'),
    },
    { name: 'entities', bytes: Buffer.from('<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa">]><svg>&a;</svg>') },
    { name: 'script', bytes: svg('<script>alert(1)</script>') },
    { name: 'outside', bytes: svg('<image href="http://127.0.0.1/x.png"/>') },
    { name: 'cut png', bytes: pixel.slice(0, 40) },
    { name: 'huge png', bytes: hugePng(pixel) },
  ]
}

/** A PNG of which the head says that it is 100,000 pixels wide. */
function hugePng(pixel: Uint8Array): Uint8Array {
  const bytes = Uint8Array.from(pixel)
  new DataView(bytes.buffer).setUint32(16, 100_000)
  return bytes
}
