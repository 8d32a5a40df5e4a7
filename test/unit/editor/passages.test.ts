import { getSchema } from '@tiptap/core'
import { Document } from '@tiptap/extension-document'
import { HardBreak } from '@tiptap/extension-hard-break'
import { Text } from '@tiptap/extension-text'
import type { Node } from '@tiptap/pm/model'
import { EditorState, TextSelection } from '@tiptap/pm/state'
import { expect } from 'chai'
import fc from 'fast-check'
import type { DocumentTree } from '#core/document/tree.ts'
import { lost, sketch, standing } from '#test/support/studio-acts.ts'
import {
  dropClause,
  indentClause,
  joinClause,
  movePassage,
  outdentClause,
  splitClause,
  splitPassage,
  toggleClause,
} from '#web/areas/templates/text/clause-commands.ts'
import {
  putPassages,
  type StructureCommand,
  takePassages,
  wholePassages,
} from '#web/areas/templates/text/passages.ts'
import { NODES } from '#web/areas/templates/text/nodes.ts'

const schema = getSchema([Document, Text, HardBreak, ...NODES])

type Fate = Readonly<Record<string, unknown>>
const line = (words: string, fate: Fate = {}) =>
  schema.node('paragraph', fate, words ? [schema.text(words)] : [])
const clause = (words: string, fate: Fate = {}, ...inner: Node[]) =>
  schema.node('clause', fate, [line(words), ...inner])
const doc = (...blocks: Node[]) => schema.node('doc', null, blocks)
const tree = (document: Node) => document.toJSON() as DocumentTree

/** Where a word begins, and ends. */
function find(document: Node, words: string): { from: number; to: number } {
  let found = -1
  document.descendants((node, position) => {
    const at = node.isText ? node.text!.indexOf(words) : -1
    if (found < 0 && at >= 0) found = position + at
    return found < 0
  })
  return { from: found, to: found + words.length }
}
const select = (document: Node, from: number, to = from) =>
  EditorState.create({ doc: document, selection: TextSelection.create(document, from, to) })

function does(state: EditorState, command: StructureCommand): { state: EditorState; refused: string | null } {
  let next = state
  let refused: string | null = null
  command(
    state,
    (tr) => (next = state.apply(tr)),
    (why) => (refused = why),
  )
  return { state: next, refused }
}

/** Cuts what is selected, and pastes it where the words stand. */
function cutTo(state: EditorState, words: string, side: 'from' | 'to' = 'to'): EditorState {
  const range = wholePassages(state.selection)!
  const cut = state.tr
  takePassages(cut, range)
  const without = state.apply(cut)
  const at = find(without.doc, words)[side]
  const paste = without.tr.setSelection(TextSelection.create(without.doc, at))
  expect(putPassages(paste, range.nodes)).to.equal(true)
  return without.apply(paste)
}

const chain = () => [
  clause('Dear a001', { condition: 'fee > 9' }),
  clause('Fair a002', { condition: 'fee > 5', alternative: true }),
  clause('Cheap a003', { alternative: true }),
]

describe('passages that are moved', () => {
  it('are whole where a selection goes over all of their words', () => {
    const text = doc(line('First'), ...chain(), line('Last'))
    const nodes = (from: string, to: string) =>
      wholePassages(select(text, find(text, from).from, find(text, to).to).selection)?.nodes.map(
        ({ textContent }) => textContent,
      )
    expect(nodes('Dear a001', 'Cheap a003')).to.deep.equal(['Dear a001', 'Fair a002', 'Cheap a003'])
    expect(nodes('First', 'Dear a001')).to.deep.equal(['First', 'Dear a001'])
    expect(nodes('ear a001', 'Fair a002'), 'a part of one').to.equal(undefined)
    expect(nodes('First', 'First'), 'words of a line nothing happens to').to.equal(undefined)
    expect(nodes('Dear a001', 'Dear a001'), 'a line something happens to').to.deep.equal(['Dear a001'])
  })

  it('keep their conditions and alternatives when they are cut and pasted, at their level', () => {
    const text = doc(...chain(), clause('After b001', {}, clause('Inner b002')), line('End'))
    const cut = select(text, find(text, 'Dear a001').from, find(text, 'Cheap a003').to)
    expect(sketch(tree(cutTo(cut, 'After b001').doc)).replaceAll('\n  ', ' ')).to.equal(
      ' clause(paragraph(“After b001”) clause(paragraph(“Inner b002”)))' +
        ' clause if fee > 9(paragraph(“Dear a001”)) clause else if fee > 5(paragraph(“Fair a002”)) clause else(paragraph(“Cheap a003”))' +
        ' paragraph(“End”)',
    )
  })

  it('stand before what the cursor is at the start of, and never inside a chain of alternatives', () => {
    const text = doc(line('Start'), ...chain(), clause('Other c001', { condition: 'leased' }))
    const cut = select(text, find(text, 'Other c001').from, find(text, 'Other c001').to)
    const order = (state: EditorState) => state.doc.content.content.map(({ textContent }) => textContent)
    expect(order(cutTo(cut, 'Dear a001', 'from'))).to.deep.equal([
      'Start',
      'Other c001',
      'Dear a001',
      'Fair a002',
      'Cheap a003',
    ])
    for (const words of ['Dear a001', 'Fair a002', 'Cheap a003'])
      expect(order(cutTo(cut, words))).to.deep.equal([
        'Start',
        'Dear a001',
        'Fair a002',
        'Cheap a003',
        'Other c001',
      ])
  })

  it('move up and down past their neighbours, alternatives together', () => {
    let state = select(doc(line('Start'), ...chain(), clause('Other c001')), 1)
    const step = (words: string, by: -1 | 1) =>
      (state = does(select(state.doc, find(state.doc, words).from + 2), movePassage(by)).state)
    const order = () => state.doc.content.content.map(({ textContent }) => textContent)
    step('Other c001', -1)
    expect(order()).to.deep.equal(['Start', 'Other c001', 'Dear a001', 'Fair a002', 'Cheap a003'])
    expect(state.selection.$from.parent.textContent).to.equal('Other c001')
    step('Fair a002', -1)
    expect(order()).to.deep.equal(['Start', 'Dear a001', 'Fair a002', 'Cheap a003', 'Other c001'])
    step('Start', 1)
    expect(order()).to.deep.equal(['Dear a001', 'Fair a002', 'Cheap a003', 'Start', 'Other c001'])
    expect(does(select(state.doc, find(state.doc, 'Other c001').from), movePassage(1)).refused).to.equal(
      'It is the last there.',
    )
  })

  it('are dropped beside another clause, not deeper than three levels', () => {
    const text = doc(
      clause('One a001', {}, clause('Two a002', {}, clause('Three a003'))),
      clause('Four b001', { repeat: 'lots' }, clause('Five b002')),
    )
    const position = (words: string) => find(text, words).from - 2
    const dropped = does(select(text, 2), dropClause(position('Four b001'), position('Two a002'), 'behind'))
    expect(sketch(tree(dropped.state.doc)).trim()).to.equal(
      'clause(paragraph(“One a001”) clause(paragraph(“Two a002”) clause(paragraph(“Three a003”))) clause(paragraph(“Four b001”) clause(paragraph(“Five b002”))))',
    )
    expect(lost(tree(text), tree(dropped.state.doc))).to.deep.equal([])
    expect(
      does(select(text, 2), dropClause(position('Four b001'), position('Three a003'), 'before')).refused,
    ).to.equal('Clauses are numbered to three levels.')
  })

  it('give what happens to a clause to the paragraph it becomes, or say why they do not become one', () => {
    const one = doc(clause('Only a001', { condition: 'leased', repeat: 'lots' }))
    const plain = does(select(one, 3), toggleClause).state
    expect(sketch(tree(plain.doc)).trim()).to.equal('paragraph if leased(“Only a001”)')
    expect(lost(tree(one), tree(plain.doc))).to.deep.equal([])
    const two = doc(clause('Both a001', { repeat: 'lots' }, line('More a002')))
    const refused = does(select(two, 3), toggleClause)
    expect(refused.state.doc.eq(two)).to.equal(true)
    expect(refused.refused).to.contain('would not for its paragraphs one by one')
  })

  it('leave a clause by Shift-Tab in a later paragraph, which does not take the clause apart', () => {
    const text = doc(clause('Title a001', {}, clause('Inner a002'), line('Behind a003')))
    const out = does(select(text, find(text, 'Behind a003').from), outdentClause).state
    expect(sketch(tree(out.doc)).replaceAll('\n  ', ' ')).to.equal(
      ' clause(paragraph(“Title a001”) clause(paragraph(“Inner a002”))) paragraph(“Behind a003”)',
    )
    const made = does(select(text, find(text, 'Behind a003').from), toggleClause).state
    expect(sketch(tree(made.doc)).trim()).to.equal(
      'clause(paragraph(“Title a001”) clause(paragraph(“Inner a002”)) clause(paragraph(“Behind a003”)))',
    )
  })

  it('keep what happens to their words through any acts in any order', () => {
    const fate = fc.constantFrom<Fate>(
      {},
      {},
      {},
      { condition: 'leased' },
      { condition: 'fee > 3', keep: true },
      { repeat: 'lots' },
    )
    let counted = 0
    const words = fc.constant(null).map(() => `w${String(++counted % 1000).padStart(3, '0')} x`)
    const paragraph = fc.tuple(words, fate).map(([text, own]) => line(text, own))
    const leaf = fc.tuple(words, fate).map(([text, own]) => clause(text, own))
    const inner = fc
      .tuple(words, fate, fc.array(fc.oneof(leaf, paragraph), { maxLength: 3 }))
      .map(([text, own, below]) => clause(text, own, ...below))
    const chains = fc
      .constant(null)
      .map(() =>
        chain().map((each, i) =>
          clause(`w${String(++counted % 1000).padStart(3, '0')} y${i}`, { ...each.attrs }),
        ),
      )
    const top = fc.oneof(
      paragraph.map((each) => [each]),
      inner.map((each) => [each]),
      chains,
    )
    const texts = fc.array(top, { minLength: 1, maxLength: 6 }).map((all) => doc(...all.flat()))
    const MOVES = {
      toggleClause,
      indentClause,
      outdentClause,
      joinClause,
      up: movePassage(-1),
      down: movePassage(1),
    }
    const SPLITS = { splitClause, splitPassage }
    const act = fc.tuple(
      fc.constantFrom(...Object.keys(MOVES), ...Object.keys(SPLITS), 'cut'),
      fc.nat(),
      fc.nat(),
      fc.nat(),
    )
    fc.assert(
      fc.property(texts, fc.array(act, { minLength: 1, maxLength: 12 }), (text, acts) => {
        let state = select(text, 1)
        for (const [name, a, b, c] of acts) {
          const before = state.doc
          const place = (n: number) => {
            const found: number[] = []
            state.doc.descendants((node, position) => {
              if (node.isTextblock)
                found.push(
                  position + 1,
                  position + 1 + node.content.size,
                  position + 1 + Math.floor(node.content.size / 2),
                )
            })
            return found[n % found.length]!
          }
          if (name === 'cut') {
            const [from, to] = [place(a), place(b)].sort((x, y) => x - y)
            const range = wholePassages(TextSelection.create(state.doc, from!, to))
            if (!range || range.nodes.every(({ textContent }) => textContent === '')) continue
            const { tr } = state
            takePassages(tr, range)
            state = state.apply(tr)
            const paste = state.tr.setSelection(TextSelection.near(state.doc.resolve(place(c))))
            expect(putPassages(paste, range.nodes)).to.equal(true)
            state = state.apply(paste)
          } else {
            state = select(state.doc, place(a))
            state = does(state, { ...MOVES, ...SPLITS }[name]!).state
          }
          state.doc.check()
          const told = `${name}: from${sketch(tree(before))}\nto${sketch(tree(state.doc))}\n`
          const after = standing(tree(state.doc))
          if (name in SPLITS)
            for (const [word, path] of standing(tree(before)))
              expect(after.get(word) ?? path, `${word} at ${told}`).to.equal(path)
          else {
            expect(lost(tree(before), tree(state.doc)), told).to.deep.equal([])
            expect([...after.keys()].sort()).to.deep.equal([...standing(tree(before)).keys()].sort())
          }
        }
      }),
      { numRuns: 1500, seed: 7 },
    )
  })
})
