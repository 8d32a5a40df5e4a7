import { expect } from 'chai'
import type { TemplateContent } from '#core/document/template.ts'
import type { Block } from '#core/document/tree.ts'
import { merge } from '#core/merge/merge.ts'
import { fullNumber } from '#core/merge/numbering.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import { runningLine } from '#core/merge/running.ts'
import { finishedText } from '#core/merge/text.ts'
import type { Field, RecordData } from '#core/outline/field.ts'
import { wordingKey, decide } from '#core/wording/wording.ts'
import { completeRecord } from '#core/outline/record.ts'
import { Writer } from '#demo/writing.ts'
import { blocksOf } from '#core/merge/walk-finished.ts'
import { template } from '#test/unit/merge/template.ts'

const w = new Writer('p')
const lots: Field = {
  name: 'lots',
  label: 'Lots',
  type: 'list',
  required: false,
  items: [
    { name: 'kind', label: 'Kind', type: 'text', required: true },
    { name: 'count', label: 'Count', type: 'number', required: true },
    { name: 'price', label: 'Price', type: 'money', currency: 'USD', required: true },
    { name: 'note', label: 'Note', type: 'text', required: false },
    { name: 'double', label: 'Double', type: 'number', required: false, computed: 'count * 2 + colonies' },
  ],
  lineItems: {
    quantity: 'count',
    price: 'price',
    discount: null,
    taxRate: null,
    overallDiscount: null,
    rounding: 'half up',
  },
}
const base: RecordData = {
  'grower.name': 'Brightwater Orchard',
  'grower.contact': 'Maud Ellery',
  'grower.email': 'maud.ellery@brightwater.example',
  'land.leased': true,
  colonies: '10',
  price: '195.00',
  lots: [
    { kind: 'nucleus', count: '2', price: '10.005' },
    { kind: 'queen', count: '1', price: '3', note: 'marked' },
  ],
}

const made = (
  content: readonly Block[],
  change: (content: TemplateContent) => TemplateContent = (each) => each,
) => {
  const prepared = prepareTemplate(
    change({ ...template(...content, w.signatures('grower')), outline: [...template().outline, lots] }),
  )
  if (!prepared.ok) throw new Error(prepared.problems.map(({ message }) => message).join('; '))
  return prepared.ready
}
const text = (content: readonly Block[], data: RecordData = base) =>
  finishedText(merge(made(content), data, null).document).filter((line) => !line.startsWith('[signature'))

describe('repeats', () => {
  it('stand once for each item: rows, clauses and paragraphs', () => {
    expect(text([w.each('lots', w.paragraph('{{lots.kind}}: {{lots.count}}'))])).to.deep.equal([
      'nucleus: 2',
      'queen: 1',
    ])
    expect(
      text([w.each('lots', w.clause('**{{lots.kind}}.** {{lots.amount}}')), w.clause('Last')]),
    ).to.deep.equal(['1 nucleus. $20.01', '2 queen. $3.00', '3 Last'])
    expect(
      text([
        w.table(
          [1, 1],
          w.row(['Kind', 'Count'], true),
          w.each('lots', w.row(['{{lots.kind}}', '{{lots.double}}'])),
        ),
      ]),
    ).to.deep.equal(['Kind | Count', 'nucleus | 14', 'queen | 12'])
  })

  it('have conditions on their items', () => {
    const row = w.each('lots', w.paragraph('{{lots.kind}}'))
    const conditional: Block = { ...row, attrs: { ...row.attrs, condition: 'item.count > 1' } }
    expect(text([conditional])).to.deep.equal(['nucleus'])
  })

  it('of nothing stand nowhere', () => {
    expect(text([w.each('lots', w.paragraph('x')), w.paragraph('y')], { ...base, lots: [] })).to.deep.equal([
      'y',
    ])
  })

  it('leave an optional field of an item empty, and give their totals by themselves', () => {
    const block = w.each('lots', w.paragraph('{{lots.kind}} ({{lots.note}})'))
    expect(text([block, w.paragraph('{{lots_totals.gross}}')])).to.deep.equal([
      'nucleus ()',
      'queen (marked)',
      '$23.01',
    ])
  })

  it('are one wording, however many items there are', () => {
    const row = w.each('lots', w.paragraph('{{lots.kind}}'))
    const ready = made([{ ...row, attrs: { ...row.attrs, condition: 'item.count > 1' } }])
    const key = (data: RecordData) => wordingKey(decide(ready, completeRecord(ready.outline, data).context))
    expect(key(base)).to.equal(key({ ...base, lots: [{ kind: 'a', count: '5', price: '1' }] }))
    expect(key({ ...base, lots: [] })).to.equal('')
  })
})

describe('alternatives', () => {
  const chain = [
    w.when('colonies > 100', w.clause('Many')),
    w.otherwise('colonies > 5', w.clause('Some')),
    w.otherwise(null, w.clause('Few')),
  ]
  for (const [colonies, expected] of [
    ['200', 'Many'],
    ['10', 'Some'],
    ['2', 'Few'],
  ] as const)
    it(`give one and only one: ${colonies} colonies`, () => {
      expect(text(chain, { ...base, colonies })).to.deep.equal([`1 ${expected}`])
    })

  it('after a condition that cannot be decided stand nowhere, and it is told', () => {
    const { colonies: _colonies, ...without } = base
    const merged = merge(made(chain), without, null)
    expect(merged.problems.map(({ message }) => message).join()).to.contain('cannot be decided')
    expect(finishedText(merged.document).filter((line) => line.startsWith('1'))).to.deep.equal([])
  })
})

describe('phrases', () => {
  it('stand inside a sentence, nested and as alternatives', () => {
    const sentence = () =>
      w.paragraph(
        'The orchard is ',
        w.phrase('land.leased', 'leased', w.phrase('colonies > 5', ' and large')),
        w.phrase(null, 'owned'),
        '.',
      )
    expect(text([sentence()])).to.deep.equal(['The orchard is leased and large.'])
    expect(text([sentence()], { ...base, colonies: '1' })).to.deep.equal(['The orchard is leased.'])
    expect(text([sentence()], { ...base, 'land.leased': false })).to.deep.equal(['The orchard is owned.'])
  })
})

describe('references', () => {
  it('follow the number of their clause, forwards and back, and say their other wording where it is dropped', () => {
    const leased = w.when('land.leased', w.clause('Lease', w.clause('Inner')))
    const inner = leased.content[1] as Block
    const refer = () =>
      w.clause(w.paragraph('See ', w.reference(inner, 'the law'), ' and ', w.reference(leased, 'nothing')))
    expect(text([refer(), leased])).to.deep.equal(['1 See 2.1 and 2', '2 Lease', '2.1 Inner'])
    expect(text([w.clause('First'), leased, refer()])[3]).to.equal('3 See 2.1 and 2')
    expect(text([refer(), leased], { ...base, 'land.leased': false })).to.deep.equal([
      '1 See the law and nothing',
    ])
  })

  it('without another wording are a problem of the row', () => {
    const leased = w.when('land.leased', w.clause('Lease'))
    const merged = merge(
      made([w.paragraph('See ', w.reference(leased)), leased]),
      { ...base, 'land.leased': false },
      null,
    )
    expect(merged.problems.map(({ message }) => message)).to.deep.equal([
      'A reference names “Lease”, which this record drops, and has no other wording.',
    ])
  })

  it('number the third level with its letter', () => {
    expect(fullNumber([2, 1, 3])).to.equal('2.1(c)')
    expect(fullNumber([4])).to.equal('4')
  })
})

describe('roles', () => {
  const withRole = (role: Partial<TemplateContent['roles'][number]>, data: RecordData = base) => {
    const ready = made(
      [w.paragraph('For {{signer.grower.first_name}}. ', w.blank('text', 'grower', 'Place'))],
      (content) => ({
        ...content,
        roles: content.roles.map((each) => (each.key === 'grower' ? { ...each, ...role } : each)),
      }),
    )
    return merge(ready, data, null)
  }

  it('bring the details of their person as fields', () => {
    expect(finishedText(withRole({}).document)[0]).to.equal('For Maud. [Place]')
  })

  it('that a condition drops take their blanks and signatures with them', () => {
    const merged = withRole({ condition: 'colonies > 400' })
    expect(merged.people).to.deep.equal([])
    expect(finishedText(merged.document)).to.deep.equal(['For Maud.'])
  })

  it('that are optional fall away where nobody is named', () => {
    const { 'grower.contact': _name, 'grower.email': _mail, ...nobody } = base
    expect(withRole({ optional: true }, nobody).people).to.deep.equal([])
    expect(
      withRole({}, nobody)
        .problems.map(({ message }) => message)
        .join(),
    ).to.contain('nobody is named to sign')
  })

  it('hold several people where they come from a list, each with blanks of their own', () => {
    const people: Field = {
      name: 'officers',
      label: 'Officers',
      type: 'list',
      required: false,
      items: [
        { name: 'name', label: 'Name', type: 'text', required: true },
        { name: 'email', label: 'Mail', type: 'email', required: true },
      ],
    }
    const ready = made([w.paragraph(w.blank('initials', 'grower', 'Initials'))], (content) => ({
      ...content,
      outline: [...content.outline, people],
      roles: content.roles.map((role) =>
        role.key === 'grower'
          ? { ...role, fill: { rule: 'record', list: 'officers', name: 'name', email: 'email', title: null } }
          : role,
      ),
    }))
    const merged = merge(
      ready,
      {
        ...base,
        officers: [
          { name: 'A B', email: 'a@b.example' },
          { name: 'C D', email: 'c@d.example' },
        ],
      },
      null,
    )
    expect(merged.people.map(({ role, label }) => [role, label])).to.deep.equal([
      ['grower', 'Grower 1'],
      ['grower.2', 'Grower 2'],
    ])
    const blanks = blocksOf(merged.document)[0]!
    expect(
      blanks.kind === 'paragraph' && blanks.runs.map((run) => run.kind === 'blank' && run.blank.role),
    ).to.deep.equal(['grower', 'grower.2'])
  })
})

describe('blanks', () => {
  const blank = (more: Parameters<Writer['blank']>[3], data: RecordData = base) => {
    const merged = merge(made([w.paragraph(w.blank('text', 'grower', 'Name', more))]), data, null)
    const [first] = blocksOf(merged.document)
    return first?.kind === 'paragraph' ? first.runs : []
  }

  it('take what is known: for good, or for the signer to change', () => {
    expect(blank({ prefill: 'grower.name', locked: true })[0]).to.include({
      kind: 'text',
      text: 'Brightwater Orchard',
    })
    const [open] = blank({ prefill: 'grower.name' })
    expect(open?.kind === 'blank' && open.blank.rules.preset).to.equal('Brightwater Orchard')
  })

  it('ask where nothing is known', () => {
    const { 'grower.name': _name, ...unknown } = base
    const [asked] = blank({ prefill: 'grower.name', locked: true }, unknown)
    expect(asked?.kind === 'blank' && asked.blank.rules).to.deep.equal({})
  })

  it('are there only on their condition', () => {
    expect(blank({ condition: 'colonies > 400' })).to.deep.equal([])
  })
})

describe('head and foot', () => {
  it('part left, middle and right, and count pages', () => {
    const line = runningLine('{{number}} || Page {{page}} of {{pages}}', (name) =>
      name === 'number' ? 'LP-1' : null,
    )
    expect(line).to.deep.equal([
      [{ text: 'LP-1' }],
      [],
      [{ text: 'Page ' }, { count: 'page' }, { text: ' of ' }, { count: 'pages' }],
    ])
    expect(runningLine('a || b || c', () => null)).to.deep.equal([
      [{ text: 'a' }],
      [{ text: 'b' }],
      [{ text: 'c' }],
    ])
  })
})
