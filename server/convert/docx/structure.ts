import type { Block, Inline, ListItem } from '#core/document/tree.ts'
import { markersOnly, type Meant, type Open, under } from './markers.ts'

/**
 * A paragraph, table or picture, with what its numbering says of it; levels count from 0. `depth` is how many clauses it is
 * inside of, where the document tells; of others it is guessed.
 */
export type Piece =
  | { readonly kind: 'block' | 'continued'; readonly block: Block; readonly depth?: number | undefined }
  | {
      readonly kind: 'clause' | 'bullet' | 'letter'
      readonly level: number
      readonly content: readonly Inline[]
      readonly bookmarks: readonly string[]
      /** The list it belongs to; where that changes another list begins. */
      readonly list?: string | undefined
      readonly depth?: number | undefined
    }

/** Attributes of a part that gets its id at the end. */
export const blank = { id: '', condition: null }

/** Which list of the document a list here was made of. */
const listOf = new WeakMap<object, string>()

/** Puts an item into the list at the end of `blocks`, a level deeper into that of its last item; `begin` starts a list. */
function addItem(
  blocks: Block[],
  { kind, level, content, list: from }: Piece & { readonly kind: 'bullet' | 'letter' },
  begin: (list: Block) => void,
): void {
  const last = blocks.at(-1)
  const inner =
    level > 0 && (last?.type === 'bulletList' || last?.type === 'orderedList')
      ? (last.content.at(-1)!.content as Block[])
      : null
  if (inner)
    return addItem(inner, { kind, level: level - 1, content, bookmarks: [], list: from }, (list) =>
      inner.push(list),
    )
  const type = kind === 'bullet' ? ('bulletList' as const) : ('orderedList' as const)
  const item: ListItem = { type: 'listItem', content: [{ type: 'paragraph', attrs: blank, content }] }
  const before = last?.type === type ? listOf.get(last.content) : undefined
  const same = before === undefined || from === undefined || before === from
  if (last?.type === type && same) (last.content as ListItem[]).push(item)
  else {
    const content = [item]
    if (from !== undefined) listOf.set(content, from)
    begin({ type, attrs: blank, content })
  }
}

interface Standing {
  readonly level: number
  readonly clause: { type: 'clause'; attrs: typeof blank & { id: string }; content: Block[] }
}

/**
 * Numbered paragraphs as clauses inside clauses, lists as lists inside lists; what is indented goes on in the clause
 * before it. Markers that stand alone put what follows under their condition or repeat, until their end. `bookmarks`
 * learns which clause a bookmark stands at.
 */
export function structure(
  pieces: readonly Piece[],
  newId: () => string,
  bookmarks: Map<string, string>,
  meant: Meant,
): readonly Block[] {
  const top: Block[] = []
  let stack: Standing[] = []
  const here = () => stack.at(-1)?.clause.content ?? top
  // Markers that are open: what stands between takes them over. Where it stands is known with its first block.
  const open: { marker: Open; place: { into: Block[]; start: number } | null }[] = []
  const put = (block: Block) => {
    for (const each of open) each.place ??= { into: here(), start: here().length }
    here().push(block)
  }
  const close = () => {
    const done = open.pop()
    if (!done?.place) return
    const { into, start } = done.place
    into.push(...under(into.splice(start), done.marker))
  }
  const clause = (piece: Piece & { readonly kind: 'clause' | 'bullet' | 'letter' }) => {
    const level = Math.min(piece.level, 2)
    stack = stack.filter((each) => each.level < level).slice(0, 2)
    const id = newId()
    for (const bookmark of piece.bookmarks) bookmarks.set(bookmark, id)
    const first: Block = { type: 'paragraph', attrs: blank, content: piece.content }
    const made: Standing['clause'] = { type: 'clause', attrs: { ...blank, id }, content: [first] }
    put(made)
    stack.push({ level, clause: made })
  }
  const goTo = ({ depth }: Piece) => {
    if (depth !== undefined) stack = stack.slice(0, depth)
  }
  for (const piece of pieces) {
    if (piece.kind === 'clause') clause(piece)
    else if (piece.kind === 'bullet' || piece.kind === 'letter') {
      goTo(piece)
      addItem(here(), { ...piece, kind: piece.kind }, put)
    } else {
      const { kind, block } = piece as Piece & { readonly kind: 'block' | 'continued' }
      const markers = markersOnly(block, meant)
      if (!markers) {
        if (kind === 'block' && block.type !== 'table') stack = []
        goTo(piece)
        put(block)
      }
      for (const marker of markers ?? []) {
        if (marker.kind === 'end') close()
        else if (marker.kind === 'open') open.push({ marker, place: null })
        else if (marker.kind === 'signatures') {
          stack = []
          put({ type: 'signatureBlock', attrs: { ...blank, roles: marker.roles } })
        }
      }
    }
  }
  while (open.length) close()
  return top
}
