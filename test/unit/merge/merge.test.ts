import { expect } from 'chai'
import fc from 'fast-check'
import { fill } from '#core/merge/fill.ts'
import { merge } from '#core/merge/merge.ts'
import { clauseNumber } from '#core/merge/numbering.ts'
import type { FinishedBlock } from '#core/merge/finished.ts'
import { prepareTemplate, type ReadyTemplate } from '#core/merge/prepare.ts'
import { groupWordings } from '#core/wording/group.ts'
import { brightwater, clause, mergeField, paragraph, template, text } from './template.ts'
import { blocksOf } from '#core/merge/walk-finished.ts'
import type { Block } from '#core/document/tree.ts'

function ready(...blocks: Block[]): ReadyTemplate {
  const prepared = prepareTemplate(template(...blocks))
  if (!prepared.ok) throw new Error(prepared.problems[0]!.message)
  return prepared.ready
}

const wordsOf = (blocks: readonly FinishedBlock[]): string =>
  blocks
    .map((block) =>
      'runs' in block
        ? block.runs.map((run) => (run.kind === 'text' ? run.text : '')).join('')
        : 'blocks' in block
          ? `${block.number} ${wordsOf(block.blocks)}`
          : '',
    )
    .filter(Boolean)
    .join(' | ')

describe('merging a record', () => {
  it('shows values in their formats and remembers where each came from', () => {
    const merged = merge(ready(paragraph(text('Rent '), mergeField('total'))), brightwater, 'LP-1')
    expect(wordsOf(blocksOf(merged.document))).to.equal('Rent $23,400.00')
    expect(merged.origins).to.have.length(1)
    expect(merged.origins[0]).to.include({
      field: 'total',
      label: 'Total',
      format: 'with sign',
      formula: 'colonies * price',
      clause: null,
      condition: null,
    })
    expect(merged.problems).to.deep.equal([])
  })

  it('drops a clause whose condition fails, and numbers the others on', () => {
    const made = ready(clause('First'), clause('Leased', 'land.leased', clause('Inside')), clause('Last'))
    expect(wordsOf(blocksOf(merge(made, brightwater, null).document))).to.equal(
      '1 First | 2 Leased | 2.1 Inside | 3 Last',
    )
    expect(wordsOf(blocksOf(merge(made, { ...brightwater, 'land.leased': false }, null).document))).to.equal(
      '1 First | 2 Last',
    )
  })

  it('shows a gap and tells the problem where a value is missing', () => {
    const { price: _, ...rest } = brightwater
    const merged = merge(ready(paragraph(mergeField('price'))), rest, null)
    expect(wordsOf(blocksOf(merged.document))).to.equal('[Price]')
    expect(merged.problems.map(({ message }) => message)).to.deep.equal(['“Price” has no value here.'])
  })

  it('tells a condition that cannot be decided, rather than dropping in silence', () => {
    const { 'land.leased': _, ...rest } = brightwater
    const merged = merge(ready(clause('Leased', 'land.leased')), rest, null)
    expect(merged.problems[0]!.message).to.contain('cannot be decided')
  })

  it('tells a signer who cannot be reached', () => {
    const { 'grower.email': _, ...rest } = brightwater
    expect(merge(ready(), rest, null).problems[0]!.message).to.equal(
      'Grower: there is no email address to send to.',
    )
  })

  it('makes blanks that are named alike each time', () => {
    const made = ready()
    const blank = (number: string) =>
      blocksOf(merge(made, brightwater, number).document).find((block) => block.kind === 'signatures')
    expect(blank('1')).to.deep.equal(blank('2'))
  })

  it('fills patterns with the agreement’s own number', () => {
    expect(fill(ready(), brightwater, '{{number}} {{grower.name}} {{total}}', 'LP-7')).to.equal(
      'LP-7 Brightwater $23,400.00',
    )
  })

  it('letters the third level', () => {
    expect([[2], [2, 1], [2, 1, 3], [1, 1, 27]].map(clauseNumber)).to.deep.equal(['2', '2.1', '(c)', '(aa)'])
  })
})

describe('preparing a template', () => {
  const faults = (...blocks: Block[]) => {
    const prepared = prepareTemplate(template(...blocks))
    return prepared.ok ? [] : prepared.problems.map(({ message }) => message)
  }

  it('finds fields that are not there and conditions that are faulty', () => {
    expect(faults(paragraph(mergeField('gone')))).to.deep.equal(['There is no field “gone”.'])
    expect(faults(clause('A', 'colonies >'))).to.deep.equal(['The expression stops too early.'])
    expect(faults(clause('A', 'colonies + 1'))).to.deep.equal(['This gives a number; a yes or no is needed.'])
  })
})

describe('wordings', () => {
  const made = ready(
    clause('Leased', 'land.leased', clause('Large inside leased', 'colonies > 100')),
    clause('Large', 'colonies > 100'),
  )
  const wording = (leased: boolean, colonies: number) =>
    merge(made, { ...brightwater, 'land.leased': leased, colonies: String(colonies) }, null).wording

  it('are the same for two records exactly where the same passages stand', () => {
    fc.assert(
      fc.property(
        fc.boolean(),
        fc.integer({ min: 1, max: 300 }),
        fc.boolean(),
        fc.integer({ min: 1, max: 300 }),
        (a, m, b, n) => {
          const passages = (leased: boolean, colonies: number) =>
            wordsOf(
              blocksOf(
                merge(made, { ...brightwater, 'land.leased': leased, colonies: String(colonies) }, null)
                  .document,
              ),
            )
          expect(wording(a, m) === wording(b, n)).to.equal(passages(a, m) === passages(b, n))
        },
      ),
    )
  })

  it('do not count a passage inside a dropped one', () => {
    expect(wording(false, 200).split(' ')).to.have.length(1)
  })

  it('are grouped most rows first and told by what sets them apart', () => {
    const groups = groupWordings([
      { row: 2, key: 'a' },
      { row: 3, key: 'a b' },
      { row: 4, key: 'a' },
      { row: 5, key: '' },
    ])
    expect(groups.map(({ rows, added, left, standard }) => ({ rows, added, left, standard }))).to.deep.equal([
      { rows: [2, 4], added: [], left: [], standard: true },
      { rows: [3], added: ['b'], left: [], standard: false },
      { rows: [5], added: [], left: ['a'], standard: false },
    ])
  })
})
