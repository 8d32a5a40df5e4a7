import { Extension } from '@tiptap/core'
import type { Node } from '@tiptap/pm/model'
import { Plugin, PluginKey } from '@tiptap/pm/state'
import { Decoration, DecorationSet } from '@tiptap/pm/view'
import { fullNumber } from '#core/merge/numbering.ts'
import { isTyping } from './typing.ts'

export interface Known {
  /** Names merge fields may use. */
  readonly fields: ReadonlySet<string>
  /** What roles are called, by their keys. */
  readonly roles: ReadonlyMap<string, string>
  /** Values to show in the fields’ places; null: their names are shown. */
  readonly values: Readonly<Record<string, string | null>> | null
}

const key = new PluginKey<DecorationSet>('annotations')

/** The numbers of all clauses as they stand in the text, by id: what a record drops still counts here. */
export function clauseNumbers(document: Node): ReadonlyMap<string, string> {
  const numbers = new Map<string, string>()
  const visit = (node: Node, above: readonly number[]): void => {
    let count = 0
    node.forEach((child) => {
      if (child.type.name !== 'clause') return visit(child, above)
      const place = [...above, ++count]
      numbers.set(String(child.attrs['id']), fullNumber(place))
      visit(child, place)
    })
  }
  visit(document, [])
  return numbers
}

function annotate(document: Node, known: Known): DecorationSet {
  const numbers = clauseNumbers(document)
  const decorations: Decoration[] = []
  document.descendants((node, position) => {
    const mark = (attributes: Record<string, string>) =>
      decorations.push(Decoration.node(position, position + node.nodeSize, attributes))
    if (node.type.name === 'mergeField' && !known.fields.has(String(node.attrs['field'])))
      mark({ class: 'unknown', title: `There is no field “${String(node.attrs['field'])}”.` })
    const value = node.type.name === 'mergeField' && known.values?.[String(node.attrs['field'])]
    if (typeof value === 'string') mark({ class: 'valued', 'data-value': value })
    if (node.type.name === 'blank') {
      const role = String(node.attrs['role'])
      const label = known.roles.get(role)
      mark(
        label === undefined
          ? { class: 'unknown', title: `There is no role “${role}”.` }
          : { 'data-role': label },
      )
    }
    if (node.type.name === 'signatureBlock')
      mark({
        'data-roles': JSON.stringify(
          (node.attrs['roles'] as string[]).map((role) => known.roles.get(role) ?? role),
        ),
      })
    if (node.type.name === 'reference') {
      const number = numbers.get(String(node.attrs['clause']))
      mark(
        number
          ? { 'data-number': number }
          : { class: 'unknown', 'data-number': '?', title: 'The clause is not there any more.' },
      )
    }
  })
  return DecorationSet.create(document, decorations)
}

/** Marks what is unknown where it stands, and shows references by the numbers that clauses have now. */
export const Annotations = (known: () => Known) =>
  Extension.create({
    name: 'annotations',
    addProseMirrorPlugins: () => [
      new Plugin<DecorationSet>({
        key,
        state: {
          init: (_, state) => annotate(state.doc, known()),
          apply: (transaction, before) => {
            if (!transaction.docChanged && !transaction.getMeta(key)) return before
            // What letters move stays what it was.
            return isTyping(transaction)
              ? before.map(transaction.mapping, transaction.doc)
              : annotate(transaction.doc, known())
          },
        },
        props: { decorations: (state) => key.getState(state) },
      }),
    ],
  })

/** The meta that makes annotations look at what is known again. */
export const annotationsKey = key
