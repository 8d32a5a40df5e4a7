// Counts what makes code hard to read: `npx tsx scripts/measure.ts` lists it, `test/unit/bounds.test.ts` bounds it.
import { readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import ts from 'typescript'
import { filesOfRooms, isCode } from './structure.ts'

/** Lines that a file, a component and a function outside of the web have at the most. */
export const LIMITS = { file: 400, component: 150, function: 60, folder: 6 } as const

export interface Measured {
  readonly files: readonly string[]
  readonly components: readonly string[]
  readonly functions: readonly string[]
  /** Folders of more files than one sees at a look, without a README. */
  readonly folders: readonly string[]
  /** Exports without a docstring, and how many exports there are. */
  readonly undocumented: readonly string[]
  readonly exports: number
  readonly casts: readonly string[]
  readonly assertions: readonly string[]
  readonly useStates: readonly string[]
}

type Writable<T> = { -readonly [K in keyof T]: T[K] extends readonly (infer E)[] ? E[] : T[K] }

export function measure(): Measured {
  const found: Writable<Measured> = {
    files: [],
    components: [],
    functions: [],
    folders: [],
    undocumented: [],
    exports: 0,
    casts: [],
    assertions: [],
    useStates: [],
  }
  const all = filesOfRooms()
  for (const path of all.filter(isCode)) look(path, found)
  for (const folder of new Set(all.map(dirname))) {
    const files = all.filter((each) => dirname(each) === folder)
    if (files.filter(isCode).length > LIMITS.folder && !files.includes(join(folder, 'README.md')))
      found.folders.push(folder)
  }
  return found
}

function look(path: string, found: Writable<Measured>): void {
  const text = readFileSync(path, 'utf8')
  const source = ts.createSourceFile(
    path,
    text,
    ts.ScriptTarget.Latest,
    true,
    path.endsWith('x') ? ts.ScriptKind.TSX : ts.ScriptKind.TS,
  )
  const lineOf = (at: number) => source.getLineAndCharacterOfPosition(at).line + 1
  const where = (node: ts.Node, name: string) => `${path}:${lineOf(node.getStart())} ${name}`
  const lines = text.split('\n').length - 1
  if (lines > LIMITS.file) found.files.push(`${path} ${lines}`)
  const visit = (node: ts.Node): void => {
    if (
      ts.isFunctionDeclaration(node) ||
      ts.isArrowFunction(node) ||
      ts.isFunctionExpression(node) ||
      ts.isMethodDeclaration(node)
    ) {
      const name = nameOf(node)
      const length = lineOf(node.end) - lineOf(node.getStart()) + 1
      const isComponent = path.startsWith('web/') && /^[A-Z]/.test(name)
      if (isComponent && length > LIMITS.component) found.components.push(`${where(node, name)} ${length}`)
      if (!path.startsWith('web/') && length > LIMITS.function)
        found.functions.push(`${where(node, name)} ${length}`)
    }
    if (ts.isNonNullExpression(node)) found.assertions.push(where(node, ''))
    if (ts.isAsExpression(node) && node.type.getText() !== 'const')
      found.casts.push(where(node, node.type.getText()))
    if (ts.isCallExpression(node) && node.expression.getText() === 'useState')
      found.useStates.push(where(node, ''))
    ts.forEachChild(node, visit)
  }
  visit(source)
  for (const statement of source.statements) {
    const modifiers = ts.canHaveModifiers(statement) ? ts.getModifiers(statement) : undefined
    if (!modifiers?.some(({ kind }) => kind === ts.SyntaxKind.ExportKeyword)) continue
    found.exports++
    if (!/\/\*\*[\s\S]*\*\/\s*$/.test(text.slice(statement.getFullStart(), statement.getStart())))
      found.undocumented.push(where(statement, ''))
  }
}

function nameOf(
  node: ts.FunctionDeclaration | ts.ArrowFunction | ts.FunctionExpression | ts.MethodDeclaration,
): string {
  if (node.name) return node.name.getText()
  return ts.isVariableDeclaration(node.parent) ? node.parent.name.getText() : ''
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const found = measure()
  for (const key of ['files', 'components', 'functions', 'folders'] as const)
    process.stdout.write(`${key}: ${found[key].length}\n${found[key].map((each) => `  ${each}\n`).join('')}`)
  const { undocumented, exports, casts, assertions, useStates } = found
  process.stdout.write(
    `exports without a docstring: ${undocumented.length} of ${exports}\ncasts: ${casts.length}\nassertions (!): ${assertions.length}\nuseState: ${useStates.length}\n`,
  )
}
