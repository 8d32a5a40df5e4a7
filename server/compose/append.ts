import {
  PDFArray,
  PDFDict,
  type PDFDocument,
  PDFHexString,
  PDFName,
  PDFNumber,
  type PDFObject,
  PDFObjectCopier,
  PDFPage,
  type PDFPageLeaf,
  PDFRef,
  PDFString,
} from 'pdf-lib'

// The library's own way of copying pages leaves their structure behind: its elements name pages, and would name copies of
// them that stand nowhere. Here pages and structure go over by one copier, and keys and ids are made unique in the whole.

const name = (text: string) => PDFName.of(text)

/** A string of bytes, written in hexadecimal: no sign in it can end it. */
const plain = (text: string) => PDFHexString.of(Buffer.from(text, 'latin1').toString('hex'))
const pushAll = (array: PDFArray, ...values: readonly PDFObject[]) => {
  for (const value of values) array.push(value)
}

/** One of the files that a whole was made of: its pages, counted from 0, and its place among them. */
export interface PagesOfPart {
  readonly first: number
  readonly pages: number
  readonly at: number
}

/**
 * The pages of a file behind those of another, with their links and, where they are tagged, their structure; of a file that
 * was made so, one part where `part` names it. The file they come from is used up by it.
 */
export function appendPdf(whole: PDFDocument, source: PDFDocument, part?: PagesOfPart): readonly PDFPage[] {
  const copier = PDFObjectCopier.for(source.context, whole.context)
  const taken = source.getPages().slice(part?.first ?? 0, part ? part.first + part.pages : undefined)
  const added = taken.map(({ ref }) => {
    const copied = copier.copy(ref)
    const page = PDFPage.of(whole.context.lookup(copied) as PDFPageLeaf, copied, whole)
    whole.addPage(page)
    return page
  })
  const structure = source.catalog.lookupMaybe(name('StructTreeRoot'), PDFDict)
  if (structure) appendStructure(whole, source, structure, { added, copier, part })
  return added
}

function appendStructure(
  whole: PDFDocument,
  source: PDFDocument,
  structure: PDFDict,
  pages: {
    readonly added: readonly PDFPage[]
    readonly copier: PDFObjectCopier
    readonly part: PagesOfPart | undefined
  },
): void {
  const { ref, root, tree, keys } = rootOf(whole)
  const used = new Set(pages.added.flatMap((page) => moveKeys(page, keys.next)))
  const entries = numbers(structure.lookupMaybe(name('ParentTree'), PDFDict)).filter(([key]) => used.has(key))
  // Elements name their parents up to the root: it goes over with nothing but what is wanted of it.
  for (const key of ['ParentTree', 'IDTree']) structure.delete(name(key))
  if (pages.part)
    structure.set(name('K'), source.context.obj(kidsOf(structure).slice(pages.part.at, pages.part.at + 1)))
  const copied = pages.copier.copy(structure)
  for (const [key, value] of entries) pushAll(tree, PDFNumber.of(key + keys.next), pages.copier.copy(value))
  keys.next += 1 + Math.max(-1, ...used)
  root.set(name('ParentTreeNextKey'), PDFNumber.of(keys.next))
  const kids = root.lookup(name('K'), PDFArray)
  const language = source.catalog.get(name('Lang'))
  const ids: (readonly [string, PDFRef])[] = []
  const prefix = `${kids.size() + 1}.`
  for (const kid of kidsOf(copied)) {
    if (!(kid instanceof PDFRef)) continue
    kids.push(kid)
    const element = whole.context.lookup(kid, PDFDict)
    element.set(name('P'), ref)
    if (language && !element.has(name('Lang'))) element.set(name('Lang'), language.clone())
    renameIds(whole, kid, prefix, ids)
  }
  for (const key of ['RoleMap', 'ClassMap']) takeOver(root, copied, key)
  keepIds(root, ids)
  whole.catalog.set(name('MarkInfo'), whole.context.obj({ Marked: true }))
  if (language && !whole.catalog.has(name('Lang'))) whole.catalog.set(name('Lang'), language.clone())
}

interface Root {
  readonly ref: PDFRef
  readonly root: PDFDict
  /** Keys and values of the parent tree, by turns. */
  readonly tree: PDFArray
  readonly keys: { next: number }
}

/** The whole's structure tree, made where there is none; its number and name trees are flat lists. */
function rootOf(whole: PDFDocument): Root {
  const { context, catalog } = whole
  const found = catalog.get(name('StructTreeRoot'))
  const ref = found instanceof PDFRef ? found : context.register(context.obj({ Type: 'StructTreeRoot' }))
  const root = context.lookup(ref, PDFDict)
  if (!found) catalog.set(name('StructTreeRoot'), ref)
  const kids = context.obj([])
  for (const kid of kidsOf(root)) kids.push(kid)
  root.set(name('K'), kids)
  const entries = numbers(root.lookupMaybe(name('ParentTree'), PDFDict))
  const tree = context.obj([])
  for (const [key, value] of entries) pushAll(tree, PDFNumber.of(key), value)
  root.set(name('ParentTree'), context.obj({ Nums: tree }))
  const next = root.lookupMaybe(name('ParentTreeNextKey'), PDFNumber)?.asNumber()
  return { ref, root, tree, keys: { next: next ?? Math.max(-1, ...entries.map(([key]) => key)) + 1 } }
}

/** An element's `K`, whether one or many. */
function kidsOf(element: PDFDict): readonly PDFObject[] {
  const kids = element.get(name('K'))
  const there = kids instanceof PDFRef ? element.context.lookup(kids) : kids
  return there instanceof PDFArray ? there.asArray() : kids ? [kids] : []
}

/** Entries of a number tree (ISO 32000-1, 7.9.7), whatever its depth. */
function numbers(tree: PDFDict | undefined): readonly (readonly [number, PDFObject])[] {
  if (!tree) return []
  const own = tree.lookupMaybe(name('Nums'), PDFArray)?.asArray() ?? []
  const entries = own.flatMap((key, i) =>
    i % 2 === 0 && key instanceof PDFNumber && own[i + 1] ? [[key.asNumber(), own[i + 1]!] as const] : [],
  )
  const kids = tree.lookupMaybe(name('Kids'), PDFArray)?.asArray() ?? []
  return [...entries, ...kids.flatMap((kid) => numbers(tree.context.lookup(kid, PDFDict)))]
}

/** Pages and annotations name their place in the parent tree: it lies further back in the whole. Gives where it was. */
function moveKeys(page: PDFPage, by: number): readonly number[] {
  const annotations = page.node.Annots()?.asArray() ?? []
  const dicts = [page.node, ...annotations.map((each) => page.doc.context.lookup(each, PDFDict))]
  return dicts.flatMap((dict) =>
    ['StructParents', 'StructParent'].flatMap((key) => {
      const at = dict.lookupMaybe(name(key), PDFNumber)?.asNumber()
      if (at === undefined) return []
      dict.set(name(key), PDFNumber.of(at + by))
      return [at]
    }),
  )
}

const textOf = (value: PDFObject | undefined): string | null =>
  value instanceof PDFString
    ? value.asString()
    : value instanceof PDFHexString
      ? Buffer.from(value.asBytes()).toString('latin1')
      : null

/** Ids of elements, and what names them (headers of table cells), told apart from those of the other files. */
function renameIds(
  whole: PDFDocument,
  ref: PDFRef,
  prefix: string,
  ids: (readonly [string, PDFRef])[],
): void {
  const element = whole.context.lookup(ref)
  if (!(element instanceof PDFDict)) return
  const id = textOf(element.get(name('ID')))
  if (id !== null) {
    element.set(name('ID'), plain(prefix + id))
    ids.push([prefix + id, ref])
  }
  const attributes = element.lookup(name('A'))
  const all = attributes instanceof PDFArray ? attributes.asArray() : attributes ? [attributes] : []
  for (const each of all) {
    const headers = whole.context.lookup(each)
    const list = headers instanceof PDFDict ? headers.lookup(name('Headers')) : undefined
    if (list instanceof PDFArray)
      list.asArray().forEach((header, i) => {
        const named = textOf(header)
        if (named !== null) list.set(i, plain(prefix + named))
      })
  }
  for (const kid of kidsOf(element)) if (kid instanceof PDFRef) renameIds(whole, kid, prefix, ids)
}

/** Entries of a map that the whole does not have yet. */
function takeOver(root: PDFDict, from: PDFDict, key: string): void {
  const map = from.lookupMaybe(name(key), PDFDict)
  if (!map) return
  const kept = root.lookupMaybe(name(key), PDFDict) ?? root.context.obj({})
  for (const [entry, value] of map.entries()) if (!kept.has(entry)) kept.set(entry, value)
  root.set(name(key), kept)
}

/** The name tree of the elements' ids, in their order (ISO 32000-1, 7.9.6). */
function keepIds(root: PDFDict, more: readonly (readonly [string, PDFRef])[]): void {
  const tree = root.lookupMaybe(name('IDTree'), PDFDict)
  const all = [...idsOf(tree), ...more].sort(([a], [b]) => (a < b ? -1 : 1))
  if (all.length === 0) return
  const names = root.context.obj([])
  for (const [id, ref] of all) pushAll(names, plain(id), ref)
  const [first, last] = [all[0]![0], all.at(-1)![0]]
  const leaf = root.context.obj({ Names: names, Limits: [plain(first), plain(last)] })
  root.set(name('IDTree'), root.context.obj({ Kids: [root.context.register(leaf)] }))
}

function idsOf(tree: PDFDict | undefined): readonly (readonly [string, PDFRef])[] {
  if (!tree) return []
  const own = tree.lookupMaybe(name('Names'), PDFArray)?.asArray() ?? []
  const entries = own.flatMap((id, i) => {
    const [text, ref] = [textOf(id), own[i + 1]]
    return i % 2 === 0 && text !== null && ref instanceof PDFRef ? [[text, ref] as const] : []
  })
  const kids = tree.lookupMaybe(name('Kids'), PDFArray)?.asArray() ?? []
  return [...entries, ...kids.flatMap((kid) => idsOf(tree.context.lookup(kid, PDFDict)))]
}
