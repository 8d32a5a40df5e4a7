import { expect } from 'chai'
import { runCase } from '#core/checks/cases.ts'
import { checkTemplate, usedNames } from '#core/checks/checks.ts'
import { definedTerms } from '#core/checks/terms.ts'
import type { TemplateContent } from '#core/document/template.ts'
import type { Block } from '#core/document/tree.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import { colonySale } from '#demo/colony-sale.ts'
import { seasonAgreement } from '#demo/season-agreement.ts'
import { Writer } from '#demo/writing.ts'
import { template } from '#test/unit/merge/template.ts'

const w = new Writer('c')
const messages = (content: TemplateContent, given: ReadonlySet<string> | null = null) =>
  checkTemplate(content, given).map(({ level, message }) => `${level}: ${message}`)
const withCrop = (...blocks: Block[]): TemplateContent => {
  const made = template(...blocks)
  return {
    ...made,
    outline: [
      ...made.outline,
      { name: 'crop', label: 'Crop', type: 'choice', required: true, choices: ['almond', 'apple', 'pear'] },
    ],
  }
}

describe('checks of a template', () => {
  it('find nothing in the demo’s templates', () => {
    expect(messages(seasonAgreement)).to.deep.equal([])
    expect(messages(colonySale)).to.deep.equal([])
  })

  it('find a role that has nothing to sign, which keeps no proof from being made', () => {
    const content: TemplateContent = {
      ...template(),
      document: { type: 'doc', content: [w.clause('Words')] },
    }
    expect(messages(content)).to.include(
      'warning: “Grower” has nothing to sign or fill: put in its signature, or leave the role out.',
    )
    expect(prepareTemplate(content).ok).to.equal(true)
  })

  it('find braces that are no merge field, once in a passage', () => {
    expect(
      messages(withCrop(w.clause('The fee is {{fee and {{land.size}} acres'), w.clause('A stray }}'))),
    ).to.include.members([
      'warning: “{{fee and” is printed as it stands: it is no merge field. Type {{ and choose the field from the list.',
      'warning: “}}” is printed as it stands: it is no merge field. Type {{ and choose the field from the list.',
    ])
  })

  it('find conditions that can never hold, or always do', () => {
    const found = messages(
      withCrop(
        w.when('colonies > 400 and colonies < 300', w.clause('Never')),
        w.when('crop = "plum"', w.clause('No such choice')),
        w.when('colonies > 4 or colonies <= 4', w.clause('Always')),
        w.when('colonies > 400', w.clause('Around', w.when('colonies < 9', w.clause('Contradiction')))),
      ),
    )
    expect(found.filter((each) => each.includes('can never hold'))).to.have.length(2)
    expect(found).to.include('hint: This condition always holds.')
    expect(found).to.include('warning: This can never stand: its condition contradicts the one around it.')
  })

  it('find cases that no alternative covers, overlaps, and alternatives that never stand', () => {
    const uncovered = messages(
      withCrop(w.when('crop = "almond"', w.clause('A')), w.otherwise('crop = "apple"', w.clause('B'))),
    )
    expect(uncovered).to.include('warning: None of these alternatives stands where crop is pear.')
    const overlapping = messages(
      withCrop(
        w.when('colonies > 100', w.clause('A')),
        w.otherwise('colonies > 50 and crop = "pear"', w.clause('B')),
        w.otherwise('colonies > 200', w.clause('C')),
        w.otherwise(null, w.clause('D')),
      ),
    )
    expect(overlapping.find((each) => each.includes('Overlaps with alternative 1'))).to.contain(
      'crop is pear',
    )
    expect(overlapping).to.include(
      'warning: This alternative never stands: the ones before it take every case.',
    )
  })

  it('find references to clauses that may be absent, unless the same condition guards both', () => {
    const leased = w.when('land.leased', w.clause('Consent'))
    const loose = w.clause(w.paragraph('See ', w.reference(leased)))
    const said = w.clause(w.paragraph('See ', w.reference(leased, 'the lease')))
    const guarded = w.when('land.leased and colonies > 3', w.clause(w.paragraph('See ', w.reference(leased))))
    const found = (...blocks: Block[]) =>
      messages(template(leased, ...blocks)).filter((each) => each.includes('may be absent'))
    expect(found(loose)).to.have.length(1)
    expect(found(said, guarded)).to.deep.equal([])
  })

  it('find fields that no column of the source gives, and fields that are used nowhere', () => {
    const made = template(w.paragraph('{{grower.name}}'))
    const found = messages(
      made,
      new Set(['grower.name', 'grower.contact', 'grower.email', 'colonies', 'price']),
    )
    expect(found).to.include('warning: The chosen source gives nothing for “Land leased”.')
    expect(found).to.include('hint: “Land leased” is asked for but used nowhere.')
    expect(usedNames(made).get('grower.name')).to.be.greaterThan(0)
  })

  it('come worst first, each with its place', () => {
    const found = checkTemplate(template(w.paragraph('{{nothing}} {{colonies}}')), null)
    expect(found[0]).to.include({ level: 'fault', where: 'block', message: 'There is no field “nothing”.' })
    expect(found.map(({ level }) => level)).to.deep.equal(
      [...found.map(({ level }) => level)].sort(
        (a, b) => ['fault', 'warning', 'hint'].indexOf(a) - ['fault', 'warning', 'hint'].indexOf(b),
      ),
    )
  })
})

describe('defined terms', () => {
  it('are found in brackets and in definitions, with how often they are used', () => {
    const { defined } = definedTerms({
      type: 'doc',
      content: [
        w.paragraph('Larkmere Pollination (the “Keeper”) and the grower (each a “Party”).'),
        w.paragraph('“Bloom Period” means the days of bloom. The Keeper tells both Parties.'),
      ],
    })
    expect(defined.map(({ term, uses }) => [term, uses])).to.deep.equal([
      ['Keeper', 1],
      ['Party', 1],
      ['Bloom Period', 0],
    ])
  })

  it('used without a definition are told where the document defines its terms at all', () => {
    const { undefined: missing } = definedTerms({
      type: 'doc',
      content: [
        w.paragraph('Larkmere (the “Keeper”) works in the Orchard.'),
        w.paragraph('The Keeper may enter the Orchard, and cares for the Orchards.'),
      ],
    })
    expect(missing.map(({ term }) => term)).to.include('Orchard')
    expect(
      definedTerms({ type: 'doc', content: [w.paragraph('In the Orchard. In the Orchard.')] }).undefined,
    ).to.deep.equal([])
  })
})

describe('saved cases', () => {
  const prepared = prepareTemplate(
    template(w.clause('**Rent.** The rent is {{price}}.'), w.signatures('grower')),
  )
  const data = {
    'grower.name': 'B',
    'grower.contact': 'Maud',
    'grower.email': 'm@b.example',
    price: '3',
    colonies: '2',
  }

  it('pass while the wording is as it must be, and show the difference where it is not', () => {
    if (!prepared.ok) throw new Error(prepared.problems[0]!.message)
    const expected = runCase(prepared.ready, { name: 'x', data, expected: [] }).actual
    expect(expected[0]).to.equal('1 Rent. The rent is $3.00.')
    expect(runCase(prepared.ready, { name: 'x', data, expected }).passed).to.equal(true)
    const failed = runCase(prepared.ready, { name: 'x', data: { ...data, price: '4' }, expected })
    expect(failed.passed).to.equal(false)
    expect(failed.words.filter(({ kind }) => kind !== 'same').map(({ text }) => text.trim())).to.deep.equal([
      '3.00',
      '4.00',
    ])
  })
})
