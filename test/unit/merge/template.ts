import type { TemplateContent } from '#core/document/template.ts'
import type { Block } from '#core/document/tree.ts'

let ids = 0
const attrs = (condition: string | null = null) => ({ id: `t${++ids}`, condition })

export const text = (words: string) => ({ type: 'text' as const, text: words })
export const mergeField = (field: string, format: string | null = null) => ({
  type: 'mergeField' as const,
  attrs: { field, format },
})
export const paragraph = (
  ...content: ({ type: 'text'; text: string } | ReturnType<typeof mergeField>)[]
): Block => ({ type: 'paragraph', attrs: attrs(), content })
export const clause = (
  title: string,
  condition: string | null = null,
  ...inside: Block[]
): Block & { type: 'clause' } => ({
  type: 'clause',
  attrs: attrs(condition),
  content: [paragraph(text(title)), ...inside],
})
export const signatures = (...roles: string[]): Block => ({
  type: 'signatureBlock',
  attrs: { ...attrs(), roles },
})

/** A small template around the blocks given. */
export const template = (...content: Block[]): TemplateContent => ({
  title: 'Site permission',
  language: 'en-US',
  outline: [
    { name: 'grower.name', label: 'Orchard', type: 'text', required: true },
    { name: 'grower.contact', label: 'Contact', type: 'text', required: true },
    { name: 'grower.email', label: 'Mail', type: 'email', required: true },
    { name: 'land.leased', label: 'Land leased', type: 'yes/no', required: true },
    { name: 'colonies', label: 'Colonies', type: 'number', required: true },
    { name: 'price', label: 'Price', type: 'money', currency: 'USD', required: true },
    {
      name: 'total',
      label: 'Total',
      type: 'money',
      currency: 'USD',
      required: false,
      computed: 'colonies * price',
    },
  ],
  roles: [
    {
      key: 'grower',
      label: 'Grower',
      shape: 'circle',
      order: 1,
      fill: { rule: 'record', name: 'grower.contact', email: 'grower.email', title: null },
    },
  ],
  initialsOnEveryPage: [],
  document: { type: 'doc', content: [...content, signatures('grower')] },
  sending: {
    agreementName: 'Permission, {{grower.name}}',
    fileName: '{{number}}',
    subject: 'Permission',
    message: '',
    signByDays: 14,
  },
})

export const brightwater = {
  'grower.name': 'Brightwater',
  'grower.contact': 'Maud Ellery',
  'grower.email': 'maud@brightwater.example',
  'land.leased': true,
  colonies: '120',
  price: '195.00',
} as const
