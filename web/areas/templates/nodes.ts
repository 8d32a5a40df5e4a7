import { mergeAttributes, Node } from '@tiptap/core'
import { Heading } from '@tiptap/extension-heading'
import { BulletList, ListItem } from '@tiptap/extension-list'
import { Paragraph } from '@tiptap/extension-paragraph'
import { Plugin } from '@tiptap/pm/state'

// The editor's nodes have exactly the names and attributes of core/document/tree.ts: its JSON is the document tree.

const blockAttributes = {
  id: { default: null, rendered: false, keepOnSplit: false },
  condition: { default: null, rendered: false, keepOnSplit: false },
}

export const PlainParagraph = Paragraph.extend({ addAttributes: () => blockAttributes })
export const PlainHeading = Heading.extend({
  addAttributes: () => ({ ...blockAttributes, level: { default: 2, rendered: false } }),
}).configure({ levels: [1, 2, 3] })
export const PlainList = BulletList.extend({ addAttributes: () => blockAttributes })
export const PlainListItem = ListItem.extend({ content: 'paragraph block*' })

export const Clause = Node.create({
  name: 'clause',
  group: 'block',
  content: '(paragraph | bulletList | heading) block*',
  defining: true,
  addAttributes: () => blockAttributes,
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
  parseHTML: () => [{ tag: 'span[data-field]' }],
  renderHTML({ node }) {
    const { field, format } = node.attrs as { field: string; format: string | null }
    const known = (this.storage as { known: Set<string> }).known
    return [
      'span',
      {
        class: `merge-field${known.size && !known.has(field) ? ' unknown' : ''}`,
        'data-field': field,
        ...(format ? { 'data-format': format, title: `Shown as: ${format}` } : {}),
      },
      field,
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
    id: { default: null },
    kind: { default: 'text' },
    role: { default: '' },
    label: { default: '' },
    required: { default: true },
  }),
  parseHTML: () => [{ tag: 'span[data-blank]' }],
  renderHTML: ({ node }) => [
    'span',
    mergeAttributes({ class: 'blank-place', 'data-blank': String(node.attrs['kind']) }),
    `${String(node.attrs['role'])}: ${String(node.attrs['label'] || node.attrs['kind'])}`,
  ],
})

export const SignatureBlockNode = Node.create({
  name: 'signatureBlock',
  group: 'block',
  atom: true,
  addAttributes: () => ({ ...blockAttributes, roles: { default: [] as string[], rendered: false } }),
  parseHTML: () => [{ tag: 'div.signature-places' }],
  renderHTML: ({ node }) =>
    [
      'div',
      { class: 'signature-places' },
      ...(node.attrs['roles'] as string[]).map((role) => ['span', {}, `Signature and date: ${role}`]),
    ] as never,
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

/** Gives every block, and every blank, an id of its own; a copy gets a new one, so that nothing is named twice. */
export const Ids = Node.create({
  name: 'ids',
  addProseMirrorPlugins: () => [
    new Plugin({
      appendTransaction(transactions, _before, state) {
        if (!transactions.some(({ docChanged }) => docChanged)) return null
        const seen = new Set<string>()
        const { tr } = state
        state.doc.descendants((node, position) => {
          if (!('id' in node.attrs)) return
          const id = node.attrs['id'] as string | null
          if (id !== null && !seen.has(id)) return void seen.add(id)
          const made = newId()
          seen.add(made)
          tr.setNodeMarkup(position, null, { ...node.attrs, id: made }, node.marks)
        })
        return tr.docChanged ? tr.setMeta('addToHistory', false) : null
      },
    }),
  ],
})
