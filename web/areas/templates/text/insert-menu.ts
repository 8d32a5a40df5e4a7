import { type Editor, Extension, type Range } from '@tiptap/core'
import { PluginKey } from '@tiptap/pm/state'
import { Suggestion, type SuggestionProps } from '@tiptap/suggestion'

/** One entry of the menu that opens while writing. */
export interface Insert {
  readonly title: string
  readonly group: string
  readonly hint: string
  readonly run: (editor: Editor) => void
}

export interface MenuState {
  readonly items: readonly Insert[]
  readonly at: number
  /** Viewport coordinates of the writing place. */
  readonly left: number
  readonly top: number
  readonly bottom: number
  readonly choose: (item: Insert) => void
}

export interface InsertSources {
  /** What `/` offers. */
  readonly inserts: (query: string) => readonly Insert[]
  /** What `{{` offers. */
  readonly fields: (query: string) => readonly Insert[]
  readonly show: (menu: MenuState | null) => void
}

const matching = (items: readonly Insert[], query: string): readonly Insert[] => {
  const words = query.toLowerCase().trim().split(/\s+/)
  return items.filter(({ title, group }) =>
    words.every((word) => `${title} ${group}`.toLowerCase().includes(word)),
  )
}

/** Menus at the writing place: `/` inserts, `{{` finds a field. Arrows and Enter choose, Escape puts away. */
export const InsertMenus = (sources: () => InsertSources) =>
  Extension.create({
    name: 'insertMenus',
    // Its keys come before those that make and move clauses.
    priority: 1100,
    addProseMirrorPlugins() {
      const menu = (name: string, char: string, items: (query: string) => readonly Insert[]) =>
        Suggestion<Insert, Insert>({
          editor: this.editor,
          pluginKey: new PluginKey(name),
          char,
          allowSpaces: true,
          allowedPrefixes: char === '/' ? [' ', '\u00a0'] : null,
          items: ({ query }) => [...items(query)],
          command: ({ editor, range, props }: { editor: Editor; range: Range; props: Insert }) => {
            // The other half of the braces may be there already.
            const after = editor.state.doc.textBetween(
              range.to,
              Math.min(range.to + 2, editor.state.doc.content.size),
              '\n',
            )
            const to = char === '{{' && after.startsWith('}}') ? range.to + 2 : range.to
            editor.chain().focus().deleteRange({ from: range.from, to }).run()
            props.run(editor)
          },
          render: () => {
            let at = 0
            let current: SuggestionProps<Insert, Insert> | null = null
            const draw = () => {
              const box = current?.clientRect?.()
              if (!current || !box || current.items.length === 0) return sources().show(null)
              const { items: found, command } = current
              at = Math.min(at, found.length - 1)
              sources().show({
                items: found,
                at,
                left: box.left,
                top: box.top,
                bottom: box.bottom,
                choose: command,
              })
            }
            return {
              onStart: (props) => {
                at = 0
                current = props
                draw()
              },
              onUpdate: (props) => {
                current = props
                draw()
              },
              onKeyDown: ({ event }) => {
                const count = current?.items.length ?? 0
                if (event.key === 'Escape') {
                  sources().show(null)
                  current = null
                  return true
                }
                if (!count || !current) return false
                if (event.key === 'ArrowDown') at = (at + 1) % count
                else if (event.key === 'ArrowUp') at = (at + count - 1) % count
                else if (event.key === 'Enter' || event.key === 'Tab') {
                  current.command(current.items[at]!)
                  return true
                } else return false
                draw()
                return true
              },
              onExit: () => {
                current = null
                sources().show(null)
              },
            }
          },
        })
      return [
        menu('insertBySlash', '/', (query) => matching(sources().inserts(query), query)),
        menu('insertField', '{{', (query) => sources().fields(query.split('}')[0]!.trim())),
      ]
    },
  })
