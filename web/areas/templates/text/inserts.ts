import { isNumeric } from '#core/outline/field-kinds.ts'
import type { Editor, JSONContent } from '@tiptap/core'
import { TextSelection } from '@tiptap/pm/state'
import type { TemplateContent } from '#core/document/template.ts'
import { BLANK_KINDS } from '#core/document/tree.ts'
import { type Field, fieldsByName, type Outline } from '#core/outline/field.ts'
import { taxesList, totalsGroup } from '#core/merge/fields.ts'
import { toggleClause } from './clause-commands.ts'
import type { Insert } from './insert-menu.ts'

const paragraph = (...content: JSONContent[]): JSONContent => ({
  type: 'paragraph',
  ...(content.length ? { content } : {}),
})
const text = (words: string, bold = false): JSONContent => ({
  type: 'text',
  text: words,
  ...(bold ? { marks: [{ type: 'bold' }] } : {}),
})
const field = (name: string): JSONContent => ({ type: 'mergeField', attrs: { field: name, format: null } })

const cell = (
  content: JSONContent[],
  align: string,
  head = false,
  colspan = 1,
  colwidth: readonly number[] | null = null,
): JSONContent => ({
  type: head ? 'tableHeader' : 'tableCell',
  attrs: { colspan, rowspan: 1, colwidth, align },
  content: [paragraph(...content)],
})
const row = (cells: JSONContent[], repeat: string | null = null): JSONContent => ({
  type: 'tableRow',
  attrs: { id: null, condition: null, repeat },
  content: cells,
})

const sideOf = ({ type }: Field): string =>
  isNumeric(type) ? 'right' : type === 'yes/no' ? 'center' : 'left'

/** Width of a column by what stands in it; only the proportion counts. */
const widthOf = ({ type }: Field): number =>
  type === 'money' ? 100 : ['text', 'long text', 'address', 'email'].includes(type) ? 190 : 84

/** A table of a list: its fields as columns, one row for each item; of priced items with their totals. */
export function listTable(list: Field, items: readonly Field[]): JSONContent {
  const last = items.length
  const totals = totalsGroup(list.name)
  const total = (words: string, name: string, bold = false) =>
    row([cell([text(words, bold)], 'left', false, Math.max(1, last - 1)), cell([field(name)], 'right')])
  return {
    type: 'table',
    content: [
      row(items.map((item) => cell([text(item.label)], sideOf(item), true, 1, [widthOf(item)]))),
      row(
        items.map((item) => cell([field(`${list.name}.${item.name}`)], sideOf(item))),
        list.name,
      ),
      ...(list.lineItems && last > 1
        ? [
            total('Sum', `${totals}.subtotal`),
            ...(list.lineItems.overallDiscount ? [total('Discount', `${totals}.discount`)] : []),
            ...(list.lineItems.taxRate
              ? [
                  row(
                    [
                      cell([text('Tax at '), field(`${taxesList(list.name)}.rate`)], 'left', false, last - 1),
                      cell([field(`${taxesList(list.name)}.tax`)], 'right'),
                    ],
                    taxesList(list.name),
                  ),
                ]
              : []),
            total('Total', `${totals}.gross`, true),
          ]
        : []),
    ],
  }
}

export interface InsertActions {
  readonly pickPicture: () => void
  readonly pickReference: () => void
  readonly pickClause: () => void
  readonly keepClause: () => void
  readonly condition: () => void
  readonly phrase: () => void
  readonly repeat: () => void
  readonly newField: (name: string) => void
}

/** What `/` offers at the writing place. */
export function slashInserts(
  content: TemplateContent,
  all: Outline,
  actions: InsertActions,
): readonly Insert[] {
  /** A table's first cell is where writing goes on. */
  const putTable = (node: JSONContent) => (editor: Editor) => {
    const before = editor.state.selection.from
    editor
      .chain()
      .focus()
      .insertContent(node)
      .command(({ tr }) => {
        let found: number | null = null
        tr.doc.descendants((each, position) => {
          if (found === null && each.type.name === 'table' && position + each.nodeSize > before)
            found = position
          return found === null
        })
        if (found !== null) tr.setSelection(TextSelection.near(tr.doc.resolve(found + 1)))
        return true
      })
      .run()
  }
  /** Behind everything the cursor stands in: signatures and page breaks belong to no clause. */
  const below = (node: JSONContent) => (editor: Editor) => {
    const { $from } = editor.state.selection
    // The cursor stays in the words: what was put in is not to go with the next key.
    editor
      .chain()
      .focus()
      .insertContentAt($from.depth > 0 ? $from.after(1) : $from.pos, node, { updateSelection: false })
      .run()
  }
  const entry = (group: string, title: string, hint: string, run: (editor: Editor) => void): Insert => ({
    group,
    title,
    hint,
    run,
  })
  const table = (columns: number): JSONContent => ({
    type: 'table',
    content: [true, false, false].map((head) =>
      row(Array.from({ length: columns }, () => cell([], 'left', head))),
    ),
  })
  return [
    entry('Text', 'Clause', 'Ctrl Alt C', (editor) => void toggleClause(editor.state, editor.view.dispatch)),
    ...([1, 2, 3] as const).map((level) =>
      entry(
        'Text',
        `Heading ${level}`,
        '',
        (editor) => void editor.chain().focus().toggleHeading({ level }).run(),
      ),
    ),
    entry('Text', 'List', '', (editor) => void editor.chain().focus().toggleBulletList().run()),
    entry(
      'Text',
      'Lettered list',
      '(a), (b)',
      (editor) => void editor.chain().focus().toggleOrderedList().run(),
    ),
    entry('Text', 'Table', 'three columns', putTable(table(3))),
    entry('Text', 'Picture', 'PNG, JPEG, SVG', actions.pickPicture),
    entry('Text', 'Page break', '', below({ type: 'pageBreak' })),
    entry('Text', 'Reference to a clause', 'its number, kept', actions.pickReference),
    entry('Text', 'Clause from the library', '', actions.pickClause),
    entry('Text', 'Save this clause to the library', '', actions.keepClause),
    ...all
      .filter(({ type, items }) => type === 'list' && items?.length)
      .map((list) =>
        entry(
          'Text',
          `Table of ${list.label.toLowerCase()}`,
          'a row for each',
          putTable(listTable(list, list.items!)),
        ),
      ),
    entry('Logic', 'Condition on this passage', '', actions.condition),
    entry('Logic', 'Words on a condition', 'inside a sentence', actions.phrase),
    entry(
      'Logic',
      'Otherwise',
      'alternative to the passage before',
      (editor) => void setPassage(editor, { alternative: true }),
    ),
    entry('Logic', 'Repeat with a list', '', actions.repeat),
    entry('Logic', 'Keep on one page', '', (editor) => void setPassage(editor, { keep: true })),
    ...content.roles.flatMap((role) =>
      BLANK_KINDS.map((kind) =>
        entry(
          `Blank for ${role.label}`,
          `${kind} of ${role.label}`,
          '',
          (editor) =>
            void editor
              .chain()
              .focus()
              .insertContent({
                type: 'blank',
                attrs: {
                  id: null,
                  kind,
                  role: role.key,
                  label: kind,
                  required: kind !== 'tick',
                  ...(kind === 'choice' ? { options: ['yes', 'no'], most: 1 } : {}),
                },
              })
              .run(),
        ),
      ),
    ),
    entry(
      'Signing',
      'Signatures of everyone',
      '',
      below({ type: 'signatureBlock', attrs: { roles: content.roles.map(({ key }) => key) } }),
    ),
  ]
}

/** What `{{` offers: fields by name and label, those of a list inside its repeat; and to make the one that is missing. */
export function fieldInserts(
  all: Outline,
  query: string,
  newField: (name: string) => void,
): readonly Insert[] {
  const wanted = query.toLowerCase()
  const found = [...fieldsByName(all)]
    .filter(([name, { field: each }]) => `${name} ${each.label}`.toLowerCase().includes(wanted))
    .slice(0, 80)
    .map(([name, { field: each, list }]): Insert => ({
      group: list
        ? `In a repeat of ${list.label.toLowerCase()}`
        : name.startsWith('signer.')
          ? 'People'
          : 'Fields',
      title: each.label,
      hint: name,
      run: (editor) => void editor.chain().focus().insertContent(field(name)).run(),
    }))
    .sort((a, b) =>
      a.group === b.group
        ? 0
        : a.group === 'Fields'
          ? -1
          : b.group === 'Fields'
            ? 1
            : a.group.localeCompare(b.group),
    )
  const name = query
    .trim()
    .replace(/[^\p{L}\p{N}_.]+/gu, '_')
    .replace(/^[^\p{L}_]+/u, '')
  const fresh: Insert[] =
    name && !fieldsByName(all).has(name)
      ? [
          {
            group: 'New',
            title: `New field “${name}”`,
            hint: 'text',
            run: (editor) => {
              newField(name)
              editor.chain().focus().insertContent(field(name)).run()
            },
          },
        ]
      : []
  return [...found, ...fresh]
}

/** The passage around the cursor that margin notes speak of: a table's row, a list's item, the innermost clause, else the block. */
export function passageAt(
  editor: Editor,
): { readonly position: number; readonly attrs: Readonly<Record<string, unknown>> } | null {
  const { $from, node } = editor.state.selection as typeof editor.state.selection & {
    node?: { attrs: Record<string, unknown>; isBlock: boolean }
  }
  if (node?.isBlock && 'condition' in node.attrs) return { position: $from.pos, attrs: node.attrs }
  const kinds = ['tableRow', 'clause', 'paragraph', 'heading']
  for (const wanted of ['tableRow', 'clause'])
    for (let depth = $from.depth; depth > 0; depth--) {
      const here = $from.node(depth)
      if (here.type.name !== wanted) continue
      // Further paragraphs of a clause are passages of their own.
      const inner = depth < $from.depth ? $from.node(depth + 1) : null
      if (wanted === 'clause' && $from.index(depth) > 0 && inner && kinds.includes(inner.type.name))
        return { position: $from.before(depth + 1), attrs: inner.attrs }
      return { position: $from.before(depth), attrs: here.attrs }
    }
  return $from.depth > 0 ? { position: $from.before(1), attrs: $from.node(1).attrs } : null
}

/** Sets attributes of the passage around the cursor. */
export function setPassage(editor: Editor, attributes: Readonly<Record<string, unknown>>): boolean {
  const passage = passageAt(editor)
  if (!passage) return false
  const { tr } = editor.state
  for (const [name, value] of Object.entries(attributes)) tr.setNodeAttribute(passage.position, name, value)
  editor.view.dispatch(tr)
  return true
}

/** The list that the place of the cursor repeats with, from the innermost repeat. */
export function repeatAt(editor: Editor): string | null {
  const { $from } = editor.state.selection
  for (let depth = $from.depth; depth > 0; depth--) {
    const repeat = $from.node(depth).attrs['repeat'] as string | null | undefined
    if (repeat) return repeat
  }
  return null
}

/** Position of the innermost clause around the cursor. */
export function clauseAt(editor: Editor): number | null {
  const { $from } = editor.state.selection
  for (let depth = $from.depth; depth > 0; depth--)
    if ($from.node(depth).type.name === 'clause') return $from.before(depth)
  return null
}
