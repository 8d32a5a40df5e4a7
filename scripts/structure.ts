// Draws the structure of the code, as its imports have it, into docs/architecture.md.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { dirname, join, relative } from 'node:path'
import { fileURLToPath } from 'node:url'
import ts from 'typescript'

const root = join(dirname(fileURLToPath(import.meta.url)), '..')
/** The rooms of the code itself, without tests and scripts. */
const ROOMS = ['core', 'contract', 'server', 'web', 'demo'] as const
export const PICTURE = join(root, 'docs/architecture.md')

/** What stands where: who imports whom, files by their path from the root. */
export type Imports = ReadonlyMap<string, ReadonlySet<string>>

/** All files of the rooms, by their path from the root. */
export const filesOfRooms = (): readonly string[] =>
  ROOMS.flatMap((room) =>
    readdirSync(join(root, room), { recursive: true, withFileTypes: true })
      .filter((each) => each.isFile())
      .map((each) => relative(root, join(each.parentPath, each.name))),
  )

/** Whether a file is one of TypeScript. */
export const isCode = (file: string): boolean => /\.tsx?$/.test(file)

/** All imports of files of ours in the rooms, of types too, and those written as calls. */
export function readImports(): Imports {
  const files = filesOfRooms().filter(isCode)
  const known = new Set(files)
  return new Map(
    files.map((file) => {
      const { importedFiles } = ts.preProcessFile(readFileSync(join(root, file), 'utf8'), true, true)
      const ours = importedFiles.flatMap(({ fileName }) => {
        const path = fileName.startsWith('#')
          ? fileName.slice(1)
          : fileName.startsWith('.')
            ? join(dirname(file), fileName)
            : ''
        return known.has(path) ? [path] : []
      })
      return [file, new Set(ours)]
    }),
  )
}

/** The same between folders. */
export function betweenFolders(imports: Imports): Imports {
  const folders = new Map<string, Set<string>>()
  for (const [file, others] of imports) {
    const from = dirname(file)
    const to = folders.get(from) ?? new Set()
    folders.set(from, to)
    for (const other of others) if (dirname(other) !== from) to.add(dirname(other))
  }
  return folders
}

/** A way that leads back to where it began, as the names on it; null: there is none. */
export function circleIn(graph: Imports): readonly string[] | null {
  const done = new Set<string>()
  const way: string[] = []
  const visit = (at: string): readonly string[] | null => {
    if (done.has(at)) return null
    const before = way.indexOf(at)
    if (before >= 0) return [...way.slice(before), at]
    way.push(at)
    for (const next of graph.get(at) ?? []) {
      const found = visit(next)
      if (found) return found
    }
    way.pop()
    done.add(at)
    return null
  }
  for (const at of graph.keys()) {
    const found = visit(at)
    if (found) return found
  }
  return null
}

/** Without the arrows that follow from others: who reaches a folder by way of another needs none of its own. */
export function reduced(graph: Imports): Imports {
  const reach = new Map<string, Set<string>>()
  const reached = (at: string): Set<string> => {
    const known = reach.get(at)
    if (known) return known
    const all = new Set<string>()
    for (const next of graph.get(at) ?? []) for (const each of [next, ...reached(next)]) all.add(each)
    reach.set(at, all)
    return all
  }
  return new Map(
    [...graph].map(([at, nexts]) => [
      at,
      new Set(
        [...nexts].filter((next) => ![...nexts].some((other) => other !== next && reached(other).has(next))),
      ),
    ]),
  )
}

/** One room as a Mermaid drawing: its folders, and the arrows between them. */
function drawing(room: string, graph: Imports): string {
  const inside = (name: string) => name === room || name.startsWith(`${room}/`)
  const own = new Map(
    [...graph]
      .filter(([name]) => inside(name))
      .map(([name, nexts]) => [name, new Set([...nexts].filter(inside))] as const),
  )
  const id = (name: string) => name.replaceAll(/[/-]/g, '_')
  const label = (name: string) => (name === room ? `${room}/` : name.slice(room.length + 1))
  const arrows = [...reduced(own)].flatMap(([name, nexts]) =>
    [...nexts].map((next) => `  ${id(name)} --> ${id(next)}`),
  )
  const rooms = [...own.keys()].map((name) => `  ${id(name)}["${label(name)}"]`)
  return ['```mermaid', 'graph LR', ...rooms.sort(), ...arrows.sort(), '```'].join('\n')
}

const [BEGIN, END] = ['<!-- structure: npx tsx scripts/structure.ts -->', '<!-- /structure -->']

/** The document with the pictures as the code is now. */
export function drawn(document: string, imports: Imports): string {
  const graph = betweenFolders(imports)
  const pictures = ['core', 'server', 'web'].map((room) => `**${room}/**\n\n${drawing(room, graph)}`)
  const [before, rest] = document.split(BEGIN)
  const after = rest?.split(END)[1]
  if (after === undefined) throw new Error(`The document lacks ${BEGIN} and ${END}.`)
  return `${before}${BEGIN}\n\n${pictures.join('\n\n')}\n\n${END}${after}`
}

if (process.argv[1] === fileURLToPath(import.meta.url))
  writeFileSync(PICTURE, drawn(readFileSync(PICTURE, 'utf8'), readImports()))
