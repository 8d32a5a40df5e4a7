import { execFileSync } from 'node:child_process'
import { existsSync, readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { expect } from 'chai'
import { builtIns } from '#core/expression/functions.ts'

const files = execFileSync('git', ['ls-files'], { encoding: 'utf8' }).split('\n').filter(Boolean)
const folders = new Set(
  files.flatMap((file) => file.split('/').map((_, i, parts) => parts.slice(0, i).join('/'))),
)
const there = new Set([...files, ...folders])
const documents = files.filter((file) => file.endsWith('.md'))

/** What a document names by a path: in code marks, of our endings, or as the target of a link. */
function pathsOf(text: string): readonly string[] {
  const marked = [...text.matchAll(/`([\w.-]+(?:\/[\w.-]+)*\/?)`/g)].map(([, path]) => path!)
  const linked = [...text.matchAll(/\]\(([^)#\s:]+)(?:#[^)]*)?\)/g)].map(([, path]) => path!)
  const known = (path: string) =>
    /\.(ts|tsx|md|json|typ|mjs|sql|html|css)$/.test(path) || /^[\w.-]+\/([\w.-]+\/)*$/.test(path)
  return [...marked.filter(known), ...linked]
}

/** A path is written from the root, from its document's folder, or from as far down as tells it from others. */
function isThere(document: string, path: string): boolean {
  const bare = path.replace(/\/$/, '')
  if (there.has(join(dirname(document), bare)) || existsSync(bare)) return true
  return [...there].some((each) => each.endsWith(`/${bare.replace(/^\.\//, '')}`))
}

describe('the documents', () => {
  it('name only files and folders that there are', () => {
    const lost = documents.flatMap((document) =>
      pathsOf(readFileSync(document, 'utf8'))
        .filter((path) => !isThere(document, path))
        .map((path) => `${document}: ${path}`),
    )
    expect(lost).to.deep.equal([])
  })

  it('list every function of FEEL that there is', () => {
    const list = readFileSync('docs/feel.md', 'utf8').split('## All functions')[1]!
    const listed = [...list.matchAll(/`([^`]+)`/g)].map(([, name]) => name!)
    expect(listed).to.have.members([...builtIns.keys()])
  })

  it('list every decision in their index', () => {
    const index = readFileSync('docs/decisions/README.md', 'utf8')
    const decisions = documents.filter((file) => /^docs\/decisions\/\d/.test(file))
    for (const file of decisions) expect(index).to.contain(`(${file.split('/').at(-1)!})`)
  })
})
