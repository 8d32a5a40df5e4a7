import { getSchema } from '@tiptap/core'
import { Document } from '@tiptap/extension-document'
import { HardBreak } from '@tiptap/extension-hard-break'
import { Text } from '@tiptap/extension-text'
import type { Node } from '@tiptap/pm/model'
import { EditorState, TextSelection } from '@tiptap/pm/state'
import { innermost, type StructureCommand } from '#web/areas/templates/text/passages.ts'
import { expect } from 'chai'
import fc from 'fast-check'
import {
  indentClause,
  outdentClause,
  splitClause,
  toggleClause,
} from '#web/areas/templates/text/clause-commands.ts'
import { NODES } from '#web/areas/templates/text/nodes.ts'
import { passageNotes } from '#web/areas/templates/text/passage-notes.ts'

const schema = getSchema([Document, Text, HardBreak, ...NODES])

type Written = string | readonly [string, ...Written[]]

/** A text is a paragraph; a list of a text and more is a clause with those inside it. */
const node = (written: Written): Node =>
  typeof written === 'string'
    ? schema.node('paragraph', null, written ? [schema.text(written)] : [])
    : schema.node('clause', null, [
        node(written[0]),
        ...written.slice(1).map((each) => node(each as Written)),
      ])
const doc = (...written: readonly Written[]) => schema.node('doc', null, written.map(node))

/** The document as it is written above. */
const read = (part: Node): Written =>
  part.type.name === 'clause'
    ? ([part.child(0).textContent, ...part.content.content.slice(1).map(read)] as unknown as Written)
    : part.textContent
const shown = (state: EditorState) => state.doc.content.content.map(read)

/** The cursor behind so many letters of the paragraph with these words. */
function at(document: Node, words: string, behind = words.length): EditorState {
  let position: number | null = null
  document.descendants((each, start) => {
    if (position === null && each.isTextblock && each.textContent === words) position = start + 1 + behind
    return position === null
  })
  return EditorState.create({ doc: document, selection: TextSelection.create(document, position!) })
}
function after(state: EditorState, command: StructureCommand): EditorState {
  let next = state
  command(state, (tr) => (next = state.apply(tr)))
  return next
}
const words = (state: EditorState) => state.selection.$from.parent.textContent

describe('writing clauses', () => {
  it('makes the paragraph at the cursor a clause and plain again, the cursor where it was', () => {
    const plain = at(doc('Before', 'Delivery.', 'After'), 'Delivery.', 4)
    const clause = after(plain, toggleClause)
    expect(shown(clause)).to.deep.equal(['Before', ['Delivery.'], 'After'])
    expect(clause.selection.$from.parentOffset).to.equal(4)
    expect(shown(after(clause, toggleClause))).to.deep.equal(['Before', 'Delivery.', 'After'])
  })

  it('begins the next clause at Enter, with what stood behind the cursor', () => {
    const split = after(at(doc(['Delivery. At night.']), 'Delivery. At night.', 9), splitClause)
    expect(shown(split)).to.deep.equal([['Delivery.'], [' At night.']])
    expect(words(split)).to.equal(' At night.')
    expect(split.selection.$from.parentOffset).to.equal(0)
  })

  it('leaves what is inside with the clause when Enter comes at the end of its first words', () => {
    const split = after(at(doc(['One', ['inside'], 'more']), 'One'), splitClause)
    expect(shown(split)).to.deep.equal([['One', ['inside'], 'more'], ['']])
  })

  it('takes what is inside along when Enter comes in the middle of its first words', () => {
    const split = after(at(doc(['One two', ['inside']]), 'One two', 3), splitClause)
    expect(shown(split)).to.deep.equal([['One'], [' two', ['inside']]])
  })

  it('leaves the clause one level out at Enter in an empty one', () => {
    const inner = after(at(doc(['One', ['']]), ''), splitClause)
    expect(shown(inner)).to.deep.equal([['One'], ['']])
    expect(shown(after(inner, splitClause))).to.deep.equal([['One'], ''])
  })

  it('moves a clause into the one before it, to three levels', () => {
    const second = after(at(doc(['One'], ['Two'], ['Three']), 'Two'), indentClause)
    expect(shown(second)).to.deep.equal([['One', ['Two']], ['Three']])
    const third = after(after(at(second.doc, 'Three'), indentClause), indentClause)
    expect(shown(third)).to.deep.equal([['One', ['Two', ['Three']]]])
    expect(words(third)).to.equal('Three')
    expect(shown(after(third, indentClause))).to.deep.equal(shown(third))
  })

  it('moves no clause so far in that one inside it would be on a fourth level', () => {
    const state = at(doc(['One', ['Two'], ['Three', ['Four']]]), 'Three')
    expect(shown(after(state, indentClause))).to.deep.equal(shown(state))
  })

  it('moves no first clause, for there is none before it', () => {
    const state = at(doc('Before', ['One'], ['Two']), 'One')
    expect(shown(after(state, indentClause))).to.deep.equal(['Before', ['One'], ['Two']])
  })

  it('moves a clause out, and what followed it there becomes its own', () => {
    const out = after(at(doc(['One', ['Two'], ['Three']]), 'Two', 1), outdentClause)
    expect(shown(out)).to.deep.equal([['One'], ['Two', ['Three']]])
    expect([words(out), out.selection.$from.parentOffset]).to.deep.equal(['Two', 1])
  })

  it('leaves a text that is no clause alone', () => {
    const state = at(doc('Words'), 'Words')
    for (const command of [splitClause, indentClause, outdentClause])
      expect(command(state), 'a plain paragraph').to.equal(false)
  })

  it('knows what Tab moves: the innermost of table, list and clause', () => {
    const item = schema.node('listItem', null, [node('in a list')])
    const cell = schema.node('tableCell', null, [node('in a cell')])
    const document = schema.node('doc', null, [
      schema.node('clause', null, [
        node('in a clause'),
        schema.node('bulletList', null, [item]),
        schema.node('table', null, [schema.node('tableRow', null, [cell])]),
      ]),
      node('in nothing'),
    ])
    const of = (found: string) => innermost(at(document, found).selection.$from)
    expect(['in a clause', 'in a list', 'in a cell', 'in nothing'].map(of)).to.deep.equal([
      'clause',
      'listItem',
      'table',
      null,
    ])
  })

  it('keeps every word and a sound document, whatever is done in whatever order', () => {
    const commands = { toggleClause, splitClause, indentClause, outdentClause }
    const written: fc.Arbitrary<Written> = fc.letrec<{ written: Written }>((tie) => ({
      written: fc.oneof(
        { depthSize: 'small' },
        fc.stringMatching(/^[a-z]{1,8}$/),
        fc
          .tuple(fc.stringMatching(/^[a-z]{1,8}$/), fc.array(tie('written'), { maxLength: 3 }))
          .map(([first, more]) => [first, ...more] as const),
      ),
    })).written
    fc.assert(
      fc.property(
        fc.array(written, { minLength: 1, maxLength: 5 }),
        fc.array(fc.tuple(fc.constantFrom(...Object.keys(commands)), fc.nat(), fc.nat()), { maxLength: 12 }),
        (text, acts) => {
          let state = EditorState.create({ doc: doc(...text) })
          const letters = state.doc.textContent
          for (const [name, block, offset] of acts) {
            const places: { start: number; size: number }[] = []
            state.doc.descendants((each, start) => {
              if (each.isTextblock) places.push({ start: start + 1, size: each.content.size })
            })
            const { start, size } = places[block % places.length]!
            const cursor = TextSelection.create(state.doc, start + (offset % (size + 1)))
            state = after(state.apply(state.tr.setSelection(cursor)), commands[name as keyof typeof commands])
            state.doc.check()
            expect(state.doc.textContent, name).to.equal(letters)
          }
        },
      ),
      { numRuns: 400 },
    )
  })
})

describe('margin notes', () => {
  const passage = (attrs: Record<string, unknown>, ...inside: Node[]) =>
    schema.node('clause', attrs, [node('Words.'), ...inside])

  it('tell what happens to a passage, in reading order', () => {
    const document = schema.node('doc', null, [
      passage({ id: 'a', condition: 'leased', keep: true }),
      passage({ id: 'b', alternative: true }),
      passage({ id: 'c', condition: 'acres > 60', alternative: true }),
      passage({ id: 'd', repeat: 'lots' }, passage({ id: 'e', condition: 'item.price > 10' })),
      passage({ id: 'f', source: { clause: 'x', edition: 3, linked: true } }),
      schema.node('signatureBlock', { id: 'g', roles: ['grower', 'keeper'] }),
    ])
    const notes = passageNotes(document)
    expect(notes.map(({ id, text }) => [id, text])).to.deep.equal([
      ['a', 'only where leased'],
      ['a', 'on one page'],
      ['b', 'otherwise'],
      ['c', 'else where acres > 60'],
      ['d', 'for each of lots'],
      ['e', 'only where item.price > 10'],
      ['f', 'linked to the library, edition 3'],
      ['g', 'grower, keeper sign here'],
    ])
    expect(notes.find(({ id }) => id === 'e')!.inRepeat).to.equal('lots')
  })

  it('stand at their passages, and a check has one of its own only where there is none yet', () => {
    const document = schema.node('doc', null, [
      schema.node('paragraph', { id: 'plain' }, [schema.text('Words')]),
      passage({ id: 'a', condition: 'leased' }),
    ])
    const notes = passageNotes(document, new Set(['plain', 'a']))
    expect(notes.map(({ id, kind }) => [id, kind])).to.deep.equal([
      ['plain', 'check'],
      ['a', 'condition'],
    ])
    for (const { id, position } of notes) expect(document.nodeAt(position)!.attrs['id']).to.equal(id)
  })
})
