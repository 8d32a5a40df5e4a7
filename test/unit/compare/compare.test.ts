import { expect } from 'chai'
import fc from 'fast-check'
import { compareEditions } from '#core/compare/editions.ts'
import { sameContent } from '#core/compare/equal.ts'
import { compareWords, likeness } from '#core/compare/words.ts'
import type { Block } from '#core/document/tree.ts'
import { Writer } from '#demo/writing.ts'
import { template as withSignatures } from '#test/unit/merge/template.ts'

const template = (...content: readonly Block[]) => ({
  ...withSignatures(),
  document: { type: 'doc' as const, content },
})

const told = (before: string, after: string) =>
  compareWords(before, after).map(
    ({ kind, text }) => `${{ same: '', added: '+', removed: '-' }[kind]}${text.trim()}`,
  )

describe('two texts compared', () => {
  it('differ by whole words, with what stays between', () => {
    expect(told('The rent is due in May.', 'The whole rent is due in June.')).to.deep.equal([
      'The',
      '+whole',
      'rent is due in',
      '-May',
      '+June',
      '.',
    ])
  })

  it('keep merge fields whole', () => {
    expect(told('due on {{payment_due}} at noon', 'due on {{payment_due | ISO}} at noon')).to.deep.equal([
      'due on',
      '-{{payment_due}}',
      '+{{payment_due | ISO}}',
      'at noon',
    ])
  })

  it('are given back by what is the same with what was removed or added, whatever they say', () => {
    const text = fc
      .array(fc.constantFrom('the', 'rent', 'is', 'due', '.', ',', '{{total}}'), { maxLength: 25 })
      .map((all) => all.join(' '))
    fc.assert(
      fc.property(text, text, (before, after) => {
        const changes = compareWords(before, after)
        const side = (kind: 'removed' | 'added') =>
          changes
            .filter((each) => each.kind === 'same' || each.kind === kind)
            .map((each) => each.text)
            .join('')
        expect(side('removed').replace(/\s/g, '')).to.equal(before.replace(/\s/g, ''))
        expect(side('added').replace(/\s/g, '')).to.equal(after.replace(/\s/g, ''))
      }),
    )
  })

  it('are alike from not at all to wholly', () => {
    expect(likeness('rent is due', 'rent is due')).to.equal(1)
    expect(likeness('rent is due', 'bees fly')).to.equal(0)
    expect(likeness('', '')).to.equal(1)
  })

  it('are replaced as a whole where they are longer than anyone reads', () => {
    const long = 'word '.repeat(12_000)
    expect(compareWords(long, `${long}end`).map(({ kind }) => kind)).to.deep.equal(['removed', 'added'])
  })
})

describe('two editions compared', () => {
  const write = (build: (w: Writer) => readonly Block[]) => template(...build(new Writer()))
  const kinds = (before: ReturnType<typeof write>, after: ReturnType<typeof write>) =>
    compareEditions(before, after).passages.map(
      ({ kind, words }) => `${kind}: ${words.map(({ text }) => text).join('')}`,
    )
  const clauses = (w: Writer) => [
    w.clause('**Subject.** The keeper places colonies.'),
    w.clause('**Removal.** The keeper removes them.'),
    w.clause('**Law.** Oregon.'),
  ]

  it('say nothing where nothing changed', () => {
    const found = compareEditions(write(clauses), write(clauses))
    expect([found.changes, found.facts]).to.deep.equal([0, []])
  })

  it('tell a moved clause from a new one and a lost one', () => {
    const before = write(clauses)
    const [subject, removal, law] = before.document.content as [Block, Block, Block]
    const after = { ...before, document: { ...before.document, content: [law, subject, removal] } }
    expect(kinds(before, after)).to.deep.equal([
      'moved: Law. Oregon.',
      'same: Subject. The keeper places colonies.',
      'same: Removal. The keeper removes them.',
    ])
  })

  it('find a clause again by its words where it came in anew under another id', () => {
    const other = new Writer('x')
    const after = template(other.clause('**Removal.** The keeper removes them all.'))
    const before = template(new Writer().clause('**Removal.** The keeper removes them.'))
    expect(compareEditions(before, after).passages.map(({ kind }) => kind)).to.deep.equal(['changed'])
  })

  it('list what is new and what is left out in their places', () => {
    const before = write(clauses)
    const [subject, , law] = before.document.content as [Block, Block, Block]
    const fresh = new Writer('n').clause('**Water.** Kept filled.')
    const after = { ...before, document: { ...before.document, content: [subject, fresh, law] } }
    expect(kinds(before, after)).to.deep.equal([
      'same: Subject. The keeper places colonies.',
      'added: Water. Kept filled.',
      'removed: Removal. The keeper removes them.',
      'same: Law. Oregon.',
    ])
  })

  it('tell changed conditions, and changes of data, roles and sending as facts', () => {
    const before = write((w) => [w.when('land.leased', w.clause('Leased.'))])
    const [clause] = before.document.content as [Block]
    const after = {
      ...before,
      document: {
        ...before.document,
        content: [{ ...clause, attrs: { ...clause.attrs, condition: 'colonies > 4' } } as Block],
      },
      outline: before.outline.filter(({ name }) => name !== 'price'),
      sending: { ...before.sending, signByDays: 30 },
    }
    const found = compareEditions(before, after)
    expect(found.passages[0]).to.deep.include({
      kind: 'changed',
      notes: { before: ['only where land.leased'], after: ['only where colonies > 4'] },
    })
    expect(found.facts.map(({ area, what, after: now }) => [area, what, now])).to.deep.equal([
      ['data', 'price', null],
      ['sending', 'signByDays', '30'],
    ])
  })
})

describe('contents', () => {
  it('are the same whatever the order of keys, and where a key has no value', () => {
    expect(sameContent({ a: 1, b: [1, { c: undefined }] }, { b: [1, {}], a: 1 })).to.equal(true)
    expect(sameContent({ a: [1] }, { a: { 0: 1 } })).to.equal(false)
    expect(sameContent(null, {})).to.equal(false)
  })
})
