import { readFileSync } from 'node:fs'
import { expect } from 'chai'
import { betweenFolders, circleIn, drawn, PICTURE, readImports, reduced } from '../../scripts/structure.ts'

const graph = (edges: Record<string, readonly string[]>) =>
  new Map(Object.entries(edges).map(([name, nexts]) => [name, new Set(nexts)]))

describe('the structure of the code', () => {
  const imports = readImports()

  it('has no circle, neither of files nor of folders', () => {
    expect(circleIn(imports)).to.equal(null)
    expect(circleIn(betweenFolders(imports))).to.equal(null)
  })

  it('is as the picture in docs/architecture.md draws it', () => {
    const document = readFileSync(PICTURE, 'utf8')
    expect(drawn(document, imports) === document, 'npx tsx scripts/structure.ts').to.equal(true)
  })

  it('is read whole: rooms, types, and imports written as calls', () => {
    expect(imports.get('server/files/open-storage.ts')).to.include('server/files/s3-storage.ts')
    expect(imports.get('web/brevan-app.tsx')).to.include('web/areas/desk/desk.tsx')
    expect(imports.get('contract/agreement.ts')).to.include('core/agreement/states.ts')
    expect(imports.size).to.be.above(300)
  })

  it('would be found to have a circle where there is one', () => {
    expect(circleIn(graph({ a: ['b'], b: ['c'], c: ['b'] }))).to.deep.equal(['b', 'c', 'b'])
    expect(circleIn(graph({ a: ['b', 'c'], b: ['c'], c: [] }))).to.equal(null)
  })

  it('is drawn without arrows that follow from others', () => {
    const drawnGraph = reduced(graph({ a: ['b', 'c'], b: ['c'], c: [] }))
    expect([...drawnGraph.get('a')!]).to.deep.equal(['b'])
  })
})
