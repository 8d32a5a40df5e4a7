import { mergeAttributes, Node } from '@tiptap/core'
import { Heading } from '@tiptap/extension-heading'
import { BulletList, ListItem, OrderedList } from '@tiptap/extension-list'
import { Paragraph } from '@tiptap/extension-paragraph'
import type { Node as ProseMirrorNode } from '@tiptap/pm/model'
import { type EditorState, Plugin, type Transaction } from '@tiptap/pm/state'
import { addRowAfter, columnResizing, goToNextCell, isInTable, tableEditing } from '@tiptap/pm/tables'
import type { NodeView, ViewMutationRecord } from '@tiptap/pm/view'
import { BLANK_KINDS } from '#core/document/tree.ts'
import { carried, carriedBy, FITS } from './carried.ts'
import { EXTERNAL } from '#web/areas/templates/draft/replace-document.ts'
import { isTyping } from './typing.ts'

// The editor's nodes have exactly the names and attributes of core/document/tree.ts: its JSON is the document tree.

const passageAttributes = {
  id: carried('id', null, FITS.id),
  condition: carried('condition', null, FITS.text),
  alternative: carried('alternative', false, FITS.flag),
  repeat: carried('repeat', null, FITS.text),
}
const blockAttributes = {
  ...passageAttributes,
  keep: carried('keep', false, FITS.flag),
}

/** What is pasted and names nothing is no node, only its words. */
const wanted = (value: unknown, fits: (value: unknown) => boolean = Boolean): false | null =>
  fits(value) ? null : false
const FIELD = /^[\p{L}_][\p{L}\p{N}_.]{0,119}$/u
/** A file by its SHA-256. */
const FILE = /^[0-9a-f]{64}$/

export const PlainParagraph = Paragraph.extend({ addAttributes: () => blockAttributes })
export const PlainHeading = Heading.extend({
  addAttributes: () => ({ ...blockAttributes, level: { default: 2, rendered: false } }),
}).configure({ levels: [1, 2, 3] })
export const PlainList = BulletList.extend({ addAttributes: () => blockAttributes })
export const LetteredList = OrderedList.extend({ addAttributes: () => blockAttributes })
export const PlainListItem = ListItem.extend({
  content: 'paragraph block*',
  addAttributes: () => passageAttributes,
})

export const Clause = Node.create({
  name: 'clause',
  group: 'block',
  content: '(paragraph | bulletList | orderedList | heading | table | image) block*',
  defining: true,
  addAttributes: () => ({ ...blockAttributes, source: carried('source', null, FITS.source) }),
  parseHTML: () => [{ tag: 'section.clause', contentElement: '.clause-body' }],
  renderHTML: () => ['section', { class: 'clause' }, ['div', { class: 'clause-body' }, 0]],
})

export const MergeFieldNode = Node.create({
  name: 'mergeField',
  group: 'inline',
  inline: true,
  atom: true,
  addAttributes: () => ({
    field: { default: '', parseHTML: (element: HTMLElement) => element.dataset['field'] ?? '' },
    format: { default: null, parseHTML: (element: HTMLElement) => element.dataset['format'] ?? null },
  }),
  addStorage: () => ({ known: new Set<string>() }),
  parseHTML: () => [
    { tag: 'span[data-field]', getAttrs: (element) => wanted(FIELD.test(element.dataset['field'] ?? '')) },
  ],
  renderHTML({ node }) {
    const { field, format } = node.attrs as { field: string; format: string | null }
    const known = (this.storage as { known: Set<string> }).known
    return [
      'span',
      {
        class: `merge-field${known.size && !known.has(field) ? ' unknown' : ''}`,
        'data-field': field,
        title: format ? `${field}, shown as: ${format}` : field,
        ...(format ? { 'data-format': format } : {}),
      },
      // In a table the group before the last dot is left out of sight: its repeat says it already.
      ...(field.includes('.')
        ? [
            ['span', { class: 'group' }, field.slice(0, field.lastIndexOf('.') + 1)] as const,
            ['wbr'] as const,
            field.slice(field.lastIndexOf('.') + 1),
          ]
        : [field]),
    ]
  },
  renderText: ({ node }) => `{{${String(node.attrs['field'])}}}`,
})

export const BlankNode = Node.create({
  name: 'blank',
  group: 'inline',
  inline: true,
  atom: true,
  addAttributes: () => ({
    id: carried('id', null, FITS.id),
    kind: carried('kind', 'text', (kind) => BLANK_KINDS.some((each) => each === kind)),
    role: carried('role', '', FITS.name),
    label: carried('label', '', FITS.text),
    required: carried('required', false, FITS.flag),
    ...Object.fromEntries(
      ['condition', 'prefill', 'check', 'message', 'group'].map((name) => [
        name,
        carried(name, null, FITS.text),
      ]),
    ),
    locked: carried('locked', false, FITS.flag),
    options: carried('options', undefined, FITS.texts),
    least: carried('least', undefined, FITS.number),
    most: carried('most', undefined, FITS.number),
  }),
  parseHTML: () => [
    { tag: 'span[data-blank]', getAttrs: (element) => wanted(carriedBy(element)['role'], FITS.name) },
  ],
  renderHTML: ({ node }) => [
    'span',
    mergeAttributes({ class: 'blank-place', 'data-blank': String(node.attrs['kind']) }),
    `${node.attrs['kind'] === 'tick' || node.attrs['kind'] === 'choice' ? '☐ ' : ''}${String(node.attrs['label'] || node.attrs['kind'])}`,
  ],
})

/** Words inside a paragraph that stand on a condition. */
export const PhraseNode = Node.create({
  name: 'phrase',
  group: 'inline',
  inline: true,
  content: 'inline*',
  addAttributes: () => passageAttributes,
  parseHTML: () => [{ tag: 'span.phrase' }],
  renderHTML: ({ node }) => [
    'span',
    {
      class: `phrase${node.attrs['alternative'] ? ' alternative' : ''}`,
      title: node.attrs['alternative']
        ? node.attrs['condition']
          ? `else where ${String(node.attrs['condition'])}`
          : 'otherwise'
        : `only where ${String(node.attrs['condition'])}`,
    },
    0,
  ],
})

/** The number of a clause; its text is kept up to date by a decoration of the page editor. */
export const ReferenceNode = Node.create({
  name: 'reference',
  group: 'inline',
  inline: true,
  atom: true,
  addAttributes: () => ({
    clause: carried('clause', '', FITS.id),
    form: carried('form', 'number', FITS.text),
    fallback: carried('fallback', null, FITS.text),
  }),
  parseHTML: () => [
    { tag: 'span.clause-reference', getAttrs: (element) => wanted(carriedBy(element)['clause'], FITS.id) },
  ],
  renderHTML: ({ node }) => [
    'span',
    { class: 'clause-reference', 'data-clause': String(node.attrs['clause']) },
    '§',
  ],
})

export const ImageNode = Node.create({
  name: 'image',
  group: 'block',
  atom: true,
  draggable: true,
  addAttributes: () => ({
    ...blockAttributes,
    file: { default: '', rendered: false },
    alt: carried('alt', '', FITS.text),
    width: carried('width', 50, FITS.number),
    align: carried('align', 'left', FITS.text),
  }),
  parseHTML: () => [
    {
      tag: 'img[data-file]',
      getAttrs: (element) => FILE.test(element.dataset['file'] ?? '') && { file: element.dataset['file'] },
    },
  ],
  renderHTML: ({ node }) => [
    'img',
    {
      src: `/api/pictures/${String(node.attrs['file'])}`,
      'data-file': String(node.attrs['file']),
      alt: String(node.attrs['alt']),
      style: `width: ${Number(node.attrs['width'])}%; ${node.attrs['align'] === 'center' ? 'margin: 0 auto' : node.attrs['align'] === 'right' ? 'margin-left: auto' : ''}`,
    },
  ],
})

const cellAttributes = {
  colspan: { default: 1, parseHTML: (element: HTMLElement) => Number(element.getAttribute('colspan')) || 1 },
  rowspan: { default: 1, parseHTML: (element: HTMLElement) => Number(element.getAttribute('rowspan')) || 1 },
  colwidth: carried('colwidth', null, FITS.numbers),
  align: {
    default: 'left',
    parseHTML: (element: HTMLElement) =>
      ['center', 'right'].includes(element.style.textAlign) ? element.style.textAlign : 'left',
    renderHTML: ({ align }: { align?: string }) =>
      align && align !== 'left' ? { style: `text-align: ${align}` } : {},
  },
}

/** Draws a table as wide as the page: only the proportion of its columns' widths counts. */
class TableView implements NodeView {
  readonly dom = document.createElement('table')
  readonly contentDOM = document.createElement('tbody')
  private readonly columns = document.createElement('colgroup')

  constructor(node: ProseMirrorNode) {
    this.dom.append(this.columns, this.contentDOM)
    this.update(node)
  }

  update(node: ProseMirrorNode): boolean {
    if (node.type.name !== 'table') return false
    const widths: number[] = []
    node.firstChild?.forEach(({ attrs }) => {
      const given = attrs['colwidth'] as number[] | null
      for (let i = 0; i < Number(attrs['colspan']); i++) widths.push(given?.[i] ?? 0)
    })
    const known = widths.filter((width) => width > 0)
    const usual = known.length ? known.reduce((a, b) => a + b, 0) / known.length : 1
    const whole = widths.reduce((sum, width) => sum + (width || usual), 0)
    this.columns.replaceChildren(
      ...widths.map((width) => {
        const column = document.createElement('col')
        column.style.width = `${(100 * (width || usual)) / whole}%`
        return column
      }),
    )
    return true
  }

  ignoreMutation(mutation: ViewMutationRecord): boolean {
    return mutation.type === 'attributes' || this.columns.contains(mutation.target)
  }
}

export const TableNode = Node.create({
  name: 'table',
  group: 'block',
  content: 'tableRow+',
  isolating: true,
  addAttributes: () => blockAttributes,
  extendNodeSchema: (extension) => (extension.name === 'table' ? { tableRole: 'table' } : {}),
  parseHTML: () => [{ tag: 'table' }],
  renderHTML: () => ['table', ['tbody', 0]],
  addProseMirrorPlugins: () => [
    columnResizing({ handleWidth: 4, cellMinWidth: 40, View: TableView }),
    tableEditing(),
  ],
  addKeyboardShortcuts() {
    const go = (direction: 1 | -1) => () =>
      goToNextCell(direction)(this.editor.state, this.editor.view.dispatch)
    return {
      Tab: () =>
        go(1)() ||
        (isInTable(this.editor.state) &&
          addRowAfter(this.editor.state, this.editor.view.dispatch) &&
          go(1)()),
      'Shift-Tab': go(-1),
    }
  },
})
export const TableRowNode = Node.create({
  name: 'tableRow',
  content: '(tableCell | tableHeader)+',
  addAttributes: () => passageAttributes,
  extendNodeSchema: (extension) => (extension.name === 'tableRow' ? { tableRole: 'row' } : {}),
  parseHTML: () => [{ tag: 'tr' }],
  renderHTML: () => ['tr', 0],
})
export const TableCellNode = Node.create({
  name: 'tableCell',
  content: 'block+',
  isolating: true,
  addAttributes: () => cellAttributes,
  extendNodeSchema: (extension) => (extension.name === 'tableCell' ? { tableRole: 'cell' } : {}),
  parseHTML: () => [{ tag: 'td' }],
  renderHTML: ({ HTMLAttributes }) => ['td', HTMLAttributes, 0],
})
export const TableHeaderNode = Node.create({
  name: 'tableHeader',
  content: 'block+',
  isolating: true,
  addAttributes: () => cellAttributes,
  extendNodeSchema: (extension) => (extension.name === 'tableHeader' ? { tableRole: 'header_cell' } : {}),
  parseHTML: () => [{ tag: 'th' }],
  renderHTML: ({ HTMLAttributes }) => ['th', HTMLAttributes, 0],
})

export const SignatureBlockNode = Node.create({
  name: 'signatureBlock',
  group: 'block',
  atom: true,
  addAttributes: () => ({ ...blockAttributes, roles: carried('roles', [], FITS.texts) }),
  parseHTML: () => [{ tag: 'div.signature-places' }],
  renderHTML: () => ['div', { class: 'signature-places' }],
  // Who signs is told by what the roles are called, which the node does not know: the annotations do.
  addNodeView: () => () => {
    const dom = document.createElement('div')
    dom.className = 'signature-places'
    const draw = (roles: readonly string[]) =>
      dom.replaceChildren(
        ...roles.map((role) => {
          const place = document.createElement('span')
          place.textContent = `Signature and date: ${role}`
          return place
        }),
      )
    const observer = new MutationObserver(() =>
      draw(JSON.parse(dom.dataset['roles'] ?? '[]') as readonly string[]),
    )
    observer.observe(dom, { attributes: true, attributeFilter: ['data-roles'] })
    return {
      dom,
      update: (node) => node.type.name === 'signatureBlock',
      ignoreMutation: () => true,
      destroy: () => observer.disconnect(),
    }
  },
})

export const PageBreakNode = Node.create({
  name: 'pageBreak',
  group: 'block',
  atom: true,
  addAttributes: () => blockAttributes,
  parseHTML: () => [{ tag: 'div.page-break' }],
  renderHTML: () => ['div', { class: 'page-break' }],
})

const newId = () => `b${crypto.randomUUID().slice(0, 12)}`

/** What is not bold, italic or underlined itself: its words are. */
const UNMARKED: ReadonlySet<string> = new Set(['blank', 'phrase', 'hardBreak'])

/**
 * Ids for every block and blank that has none, or one that stands before it already, and no bold where the document knows
 * of none; null where nothing is to do.
 */
function giveIds(state: EditorState): Transaction | null {
  const seen = new Set<string>()
  const { tr } = state
  state.doc.descendants((node, position) => {
    const marks = UNMARKED.has(node.type.name) ? [] : node.marks
    const named = 'id' in node.attrs
    const id = node.attrs['id'] as string | null
    const taken = named && (id === null || seen.has(id))
    const own = taken ? newId() : id
    if (named) seen.add(own!)
    if (taken || marks.length !== node.marks.length)
      tr.setNodeMarkup(position, null, named ? { ...node.attrs, id: own } : node.attrs, marks)
  })
  return tr.docChanged ? tr.setMeta('addToHistory', false) : null
}

/** Gives every block, and every blank, an id of its own; a copy gets a new one, so that nothing is named twice. */
export const Ids = Node.create({
  name: 'ids',
  // What was written elsewhere may lack ids that the text's own parts have: typing alone would not give them.
  onCreate() {
    const given = giveIds(this.editor.state)
    if (given) this.editor.view.dispatch(given.setMeta(EXTERNAL, true))
  },
  addProseMirrorPlugins: () => [
    new Plugin({
      appendTransaction: (transactions, _before, state) =>
        transactions.some((each) => each.docChanged && !isTyping(each)) ? giveIds(state) : null,
    }),
  ],
})

/** All of them: with the document, text and line breaks the schema of a template's text. */
export const NODES = [
  PlainParagraph,
  PlainHeading,
  PlainList,
  LetteredList,
  PlainListItem,
  Clause,
  MergeFieldNode,
  BlankNode,
  PhraseNode,
  ReferenceNode,
  ImageNode,
  SignatureBlockNode,
  PageBreakNode,
  TableNode,
  TableRowNode,
  TableCellNode,
  TableHeaderNode,
]
