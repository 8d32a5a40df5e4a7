import { expect } from 'chai'
import type { Block } from '#core/document/tree.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { templateFaults } from '#core/merge/faults.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import { colonySale } from '#demo/colony-sale.ts'
import { priceSchedule } from '#demo/season-packet.ts'
import { siteAccess } from '#test/support/site-access.ts'
import { seasonAgreement } from '#demo/season-agreement.ts'
import { field, Writer } from '#demo/writing.ts'

const w = new Writer('f')
const base: TemplateContent = {
  title: 'Hive rent',
  language: 'en-US',
  outline: [
    field('keeper', 'Keeper', 'text'),
    field('mail', 'Email address', 'email'),
    field('hives', 'Hives', 'number'),
    field('lots', 'Lots', 'list', {
      items: [field('kind', 'Kind', 'text'), field('price', 'Price', 'money')],
    }),
  ],
  roles: [
    {
      key: 'keeper',
      label: 'Keeper',
      order: 1,
      shape: 'circle',
      fill: { rule: 'record', name: 'keeper', email: 'mail', title: null },
    },
  ],
  document: {
    type: 'doc',
    content: [w.clause('**Rent.** {{keeper}} rents {{hives}} hives.'), w.signatures('keeper')],
  },
  initialsOnEveryPage: [],
  sending: {
    agreementName: 'Rent, {{keeper}}',
    fileName: '{{number}}',
    subject: 'Hives',
    message: 'For {{keeper}}.',
    signByDays: 14,
  },
}

type Change = Partial<TemplateContent>
const told = (change: Change) =>
  templateFaults({ ...base, ...change }).map(({ where, id, message }) => `${where} ${id}: ${message}`)
const document = (...content: readonly Block[]): Change => ({
  initialsOnEveryPage: [],
  document: { type: 'doc', content: [...content, w.signatures('keeper')] },
})
const outline = (...more: TemplateContent['outline']): Change => ({ outline: [...base.outline, ...more] })

describe('faults of a template', () => {
  it('are none in the demo’s templates and in a small sound one', () => {
    for (const content of [base, seasonAgreement, colonySale, priceSchedule, siteAccess])
      expect(templateFaults(content), content.title).to.deep.equal([])
  })

  it('are the same that keep it from being prepared', () => {
    const faulty = { ...base, ...document(w.paragraph('{{nobody}}')) }
    const prepared = prepareTemplate(faulty)
    expect(prepared.ok).to.equal(false)
    if (!prepared.ok) expect(prepared.problems).to.deep.equal(templateFaults(faulty))
  })

  describe('in the outline', () => {
    const cases: readonly (readonly [what: string, change: Change, message: string])[] = [
      [
        'a name given twice',
        outline(field('hives', 'Hives again', 'text')),
        'field hives: Two fields are called “hives”.',
      ],
      [
        'a choice of nothing',
        outline(field('size', 'Size', 'choice')),
        'field size: “Size” is a choice without anything to choose from.',
      ],
      [
        'a group that belongs to the roles',
        outline(field('signer.name', 'Name', 'text')),
        'field signer.name: The group “signer” belongs to the roles; call the field otherwise.',
      ],
      [
        'a field that is a group too',
        outline(field('hives.count', 'Count', 'number')),
        'field hives: “hives” is a field and the group of “hives.count” at once.',
      ],
      [
        'a list of nothing',
        outline(field('extras', 'Extras', 'list')),
        'field extras: The list “Extras” has no fields for its items.',
      ],
      [
        'a list in a list',
        outline(field('extras', 'Extras', 'list', { items: [field('more', 'More', 'list', { items: [] })] })),
        'field extras: “More” stands in a list and can be neither a list nor in a group.',
      ],
      [
        'computed values that need each other',
        outline(
          field('a', 'A', 'number', { computed: 'b + 1' }),
          field('b', 'B', 'number', { computed: 'a + 1' }),
        ),
        'field a: “a” needs itself: its value goes round in a circle.',
      ],
    ]
    for (const [what, change, message] of cases)
      it(what, () => {
        expect(told(change)).to.include(message)
      })

    it('a faulty formula, at the words at fault', () => {
      const [fault] = templateFaults({
        ...base,
        ...outline(field('sum', 'Sum', 'number', { computed: 'hives + keeper' })),
      })
      expect(fault).to.include({ where: 'field', id: 'sum' })
      expect(fault!.from).to.be.a('number')
      expect('hives + keeper'.slice(fault!.from!, fault!.to!)).to.contain('keeper')
    })
  })

  describe('in the text', () => {
    const cases: readonly (readonly [what: string, change: Change, message: string])[] = [
      ['a field that is not there', document(w.paragraph('{{nobody}}')), 'There is no field “nobody”.'],
      [
        'a list where a field is wanted',
        document(w.paragraph('{{lots}}')),
        '“lots” is a list; name one of its fields, or repeat the passage with it.',
      ],
      [
        'a list’s field outside of its repeat',
        document(w.paragraph('{{lots.price}}')),
        '“lots.price” belongs to the items of “Lots”; the passage has to repeat with that list.',
      ],
      [
        'a repeat with what is no list',
        document(w.each('hives', w.paragraph('x'))),
        'This passage repeats with “hives”, which is no list of the outline.',
      ],
      [
        'a blank of nobody',
        document(w.paragraph(w.blank('text', 'owner', 'Place'))),
        'A blank belongs to the role “owner”, which is not there.',
      ],
      [
        'a blank filled from nowhere',
        document(w.paragraph(w.blank('text', 'keeper', 'Place', { prefill: 'site' }))),
        'The blank “Place” is filled from “site”, which is not there.',
      ],
      [
        'a choice of nothing to sign',
        document(w.paragraph(w.blank('choice', 'keeper', 'Carried in'))),
        'The blank “Carried in” is a choice without anything to choose from.',
      ],
      [
        'a group of ticks that is not there',
        document(w.paragraph(w.blank('tick', 'keeper', 'Seen', { group: 'Inspection' }))),
        'The blank “Seen” belongs to the group “Inspection”, which is not there.',
      ],
      [
        'a reference into the void',
        document(w.paragraph(w.reference(w.clause('Gone.')))),
        'A reference names a clause that is not there any more.',
      ],
      [
        'signatures of nobody',
        document(w.signatures('owner')),
        'The signatures name the role “owner”, which is not there.',
      ],
    ]
    for (const [what, change, message] of cases)
      it(what, () => {
        expect(told(change).map((each) => each.replace(/^\w+ \w*: /, ''))).to.include(message)
      })

    it('an item’s field inside of its repeat is none', () => {
      expect(told(document(w.each('lots', w.paragraph('{{lots.kind}}: {{lots.price}}'))))).to.deep.equal([])
    })

    it('a condition that is no yes or no, in its passage and at its words', () => {
      const clause = w.otherwise('hives + 1', w.clause('Many.'))
      const faults = templateFaults({ ...base, ...document(clause) })
      expect(faults[0]).to.include({ where: 'block', id: clause.attrs.id })
      expect(faults[0]!.from).to.be.a('number')
    })

    it('a check of a blank knows the value that was typed, by the blank’s kind', () => {
      const blank = (kind: 'number' | 'text', check: string) =>
        told(document(w.paragraph(w.blank(kind, 'keeper', 'Count', { check }))))
      expect(blank('number', 'value > 3')).to.deep.equal([])
      expect(blank('text', 'matches(value, "x")')).to.deep.equal([])
      expect(blank('text', 'value > 3').join()).to.contain('The check of the blank “Count”')
    })
  })

  describe('of roles and patterns', () => {
    const [role] = base.roles
    const cases: readonly (readonly [what: string, change: Change, message: string])[] = [
      ['a key given twice', { roles: [role!, role!] }, 'role keeper: Two roles have the key “keeper”.'],
      [
        'a role without a name',
        { roles: [{ ...role!, label: ' ' }] },
        'role keeper: The role “keeper” has no name.',
      ],
      [
        'a standing person who is not named yet',
        { roles: [{ ...role!, fill: { rule: 'standing person', name: '', email: 'x', title: '' } }] },
        'role keeper: The role “Keeper” is a fixed person without an email address.',
      ],
      [
        'a person from the record, whose fields are not chosen yet',
        { roles: [{ ...role!, fill: { rule: 'record', name: '', email: '', title: null } }] },
        'role keeper: The role “Keeper” takes its person from the record: choose the fields of the name and of the email address.',
      ],
      [
        'a person from a field that is not there',
        { roles: [{ ...role!, fill: { rule: 'record', name: 'owner', email: 'mail', title: null } }] },
        'role keeper: The role “Keeper” takes its person from the field “owner”, which is not there.',
      ],
      [
        'people from a list that is not there',
        {
          roles: [{ ...role!, fill: { rule: 'record', list: 'owners', name: 'n', email: 'e', title: null } }],
        },
        'role keeper: The role “Keeper” takes its people from the list “owners”, which is not there.',
      ],
      [
        'a name pattern over nothing',
        { sending: { ...base.sending, agreementName: 'Rent, {{owner}}' } },
        'sending sending: “Rent, {{owner}}” names the field “owner”, which is not there.',
      ],
    ]
    for (const [what, change, message] of cases)
      it(what, () => {
        expect(told(change)).to.include(message)
      })

    it('page and number of pages are known on the page only', () => {
      const page = { paper: 'a4', header: '', footer: '{{page}} of {{pages}}' } as TemplateContent['page']
      expect(told({ page })).to.deep.equal([])
      expect(told({ sending: { ...base.sending, subject: '{{page}}' } })).to.have.length(1)
    })
  })
})
