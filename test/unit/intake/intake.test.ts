import type { Language } from '#core/languages/language.ts'
import type { FieldType } from '#core/outline/field-kinds.ts'
import { expect } from 'chai'
import fc from 'fast-check'
import type { SignerRole } from '#core/document/template.ts'
import { type Answers, asGiven, readAnswers } from '#core/intake/answers.ts'
import * as edit from '#core/intake/edit.ts'
import { filledFields, type IntakeForm, questionsOf } from '#core/intake/form.ts'
import { formFrom } from '#core/intake/made.ts'
import { formProblems } from '#core/intake/problems.ts'
import { describeAnswers, describeValue } from '#core/intake/describe.ts'
import { speaks } from '#core/languages/all.ts'
import type { Field, Outline } from '#core/outline/field.ts'
import { fieldsOfKind } from '#core/records/kinds.ts'

const field = (name: string, type: FieldType = 'text', more: Partial<Field> = {}): Field => ({
  name,
  label: name.split('.').at(-1)!,
  type,
  required: true,
  ...more,
})

const season: Outline = [
  field('grower.name', 'text', { label: 'Orchard' }),
  field('grower.email', 'email', { label: 'Email address' }),
  field('grower.contact', 'long text'),
  field('leased', 'yes/no', { required: false }),
  field('landowner', 'text', { required: false }),
  field('acres', 'number'),
  field('crop', 'choice', { choices: ['almond', 'pear'] }),
  field('stands', 'list', { required: false, items: [field('name'), field('colonies', 'number')] }),
  field('total', 'money', { computed: 'acres * 2' }),
]
const sale: Outline = [
  field('buyer.name', 'text', { label: 'Buyer' }),
  field('buyer.email', 'email'),
  field('day', 'date'),
]
const roles: readonly SignerRole[] = [
  {
    key: 'grower',
    label: 'Grower',
    shape: 'circle',
    order: 1,
    fill: { rule: 'record', name: 'grower.name', email: 'grower.email' },
  } as SignerRole,
]
const customer = fieldsOfKind('customer', [field('acres', 'number', { required: false })])
const form = (parts: readonly Outline[] = [season]): IntakeForm =>
  formFrom({ title: 'Booking', language: 'en', outline: parts.flat(), parts, roles, customer })
const english = speaks('en')
const read = (of: IntakeForm, answers: Answers, outline: Outline = season) =>
  readAnswers({ form: of, outline }, answers, english)
const whole: Answers = {
  'grower.name': 'Quince Bank',
  'grower.email': 'ada@quince.example',
  'grower.contact': 'Ada Moss',
  acres: '1,250',
  crop: 'almond',
}

describe('an intake form', () => {
  it('asks for each value once, and for none that is worked out', () => {
    const ids = questionsOf(form()).map(({ id }) => id)
    expect(ids).to.have.members(season.filter(({ computed }) => !computed).map(({ name }) => name))
    expect(form().email).to.equal('grower.email')
    expect(form().record?.fields).to.include({ name: 'grower.name', email: 'grower.email', acres: 'acres' })
  })

  it('asks once for what two templates have two names for', () => {
    const both = form([season, sale])
    const ids = questionsOf(both).map(({ id }) => id)
    expect(ids).to.not.include.members(['buyer.name', 'buyer.email', 'buyer.contact'])
    const all = [...season, ...sale]
    expect([...filledFields(both)]).to.have.members(
      all.filter(({ computed }) => !computed).map(({ name }) => name),
    )
    const { data } = read(both, { ...whole, day: '2027-03-01' }, all)
    expect(data).to.include({ 'grower.name': 'Quince Bank', 'buyer.name': 'Quince Bank' })
    expect(formProblems(both, all)).to.deep.equal([])
  })

  it('is answered when all that it needs is there', () => {
    const { problems, data } = read(form(), whole)
    expect(problems).to.deep.equal([])
    expect(data).to.deep.equal({
      'grower.name': 'Quince Bank',
      'grower.email': 'ada@quince.example',
      'grower.contact': 'Ada Moss',
      acres: '1250',
      crop: 'almond',
    })
    expect(asGiven(data)).to.deep.equal(data)
  })

  it('tells each wrong answer at its place, for every type', () => {
    for (const [name, wrong] of [
      ['grower.email', 'nobody'],
      ['leased', 'perhaps'],
      ['acres', 'many'],
      ['crop', 'plum'],
    ] as const)
      expect(
        read(form(), { ...whole, [name]: wrong }).problems.map(({ question }) => question),
      ).to.deep.equal([name])
    const lines = read(form(), {
      ...whole,
      stands: [{ name: 'North', colonies: '8' }, { name: '', colonies: 'x' }, {}],
    })
    expect(lines.problems.map(({ line, item }) => [line, item])).to.deep.equal([
      [1, 'name'],
      [1, 'colonies'],
    ])
    expect(lines.data['stands']).to.equal(undefined)
  })

  it('misses a file that is required, and nothing else will do', () => {
    const [first, ...more] = form().pages
    const asking: IntakeForm = {
      ...form(),
      pages: [
        {
          ...first!,
          questions: [
            ...first!.questions,
            {
              id: 'permit',
              kind: 'file',
              label: 'Permit',
              help: '',
              example: '',
              required: true,
              default: '',
              also: [],
              when: '',
            },
          ],
        },
        ...more,
      ],
    }
    const missed = (answer: Answers) =>
      read(asking, { ...whole, ...answer }).problems.map(({ question }) => question)
    expect(missed({})).to.deep.equal(['permit'])
    expect(missed({ permit: [] })).to.deep.equal(['permit'])
    expect(missed({ permit: 'permit.pdf' })).to.deep.equal(['permit'])
    expect(missed({ permit: [{ sha256: 'a'.repeat(64), name: 'permit.pdf', size: 1 }] })).to.deep.equal([])
  })

  it('reads a comma as the reader writes it', () => {
    const french = speaks('fr')
    const { data } = readAnswers({ form: form(), outline: season }, { ...whole, acres: '1 250,5' }, french)
    expect(data['acres']).to.equal('1250.5')
    const three = readAnswers({ form: form(), outline: season }, { ...whole, acres: '1,250' }, french)
    expect(three.data['acres']).to.equal('1.25')
    const point = readAnswers({ form: form(), outline: season }, { ...whole, acres: '1.250' }, french)
    expect(point.problems[0]).to.deep.include({ question: 'acres' })
    expect(point.problems[0]!.message).to.contain('1250').and.to.contain('1,25')
  })

  it('asks on a condition over what was answered before; what no longer counts is not lost', () => {
    const asking = edit.withQuestion(form(), 'landowner', { when: 'leased = true', required: true })
    const answers = { ...whole, landowner: 'Tess Holm' }
    expect(read(asking, answers).data['landowner']).to.equal(undefined)
    expect(read(asking, { ...answers, leased: true }).data['landowner']).to.equal('Tess Holm')
    expect(read(asking, { ...whole, leased: true }).problems.map(({ question }) => question)).to.deep.equal([
      'landowner',
    ])
  })

  it('checks an answer against those before it, and says so in the words of the form or its own', () => {
    const bloom: Outline = [
      field('bloom.start', 'date', { label: 'First bloom' }),
      field('bloom.end', 'date', { label: 'Last bloom' }),
      field('colonies.most', 'number', { label: 'Most' }),
    ]
    const made = form([bloom])
    expect(questionsOf(made).map(({ check = '' }) => check)).to.deep.equal([
      '',
      // A first and a last of one thing check each other without anybody having to say it.
      'bloom.end >= bloom.start',
      '',
    ])
    const asked = (of: IntakeForm, start: string, end: string) =>
      read(of, { 'bloom.start': start, 'bloom.end': end, 'colonies.most': '4' }, bloom).problems
    expect(asked(made, '2027-03-10', '2027-03-10')).to.deep.equal([])
    expect(asked(made, '2027-03-10', '2027-03-09')).to.deep.equal([
      { question: 'bloom.end', message: '“Last bloom” does not fit the other answers.' },
    ])
    // What is missing is told as missing, and not twice.
    expect(asked(made, '', '2027-03-09').map(({ question }) => question)).to.deep.equal(['bloom.start'])
    const worded = edit.withQuestion(made, 'bloom.end', { says: 'Bloom ends before it begins.' })
    expect(asked(worded, '2027-03-10', '2027-03-09')[0]!.message).to.equal('Bloom ends before it begins.')
    const late = edit.withQuestion(made, 'bloom.start', { check: 'bloom.start <= bloom.end' })
    expect(formProblems(late, bloom).find(({ question }) => question === 'bloom.start')?.message).to.contain(
      'is asked only after it',
    )
  })

  it('says what is wrong with itself', () => {
    const told = (of: IntakeForm) => formProblems(of, season).map(({ question }) => question)
    expect(told(edit.leaveOut(form(), 'acres'))).to.include(null)
    expect(told(edit.leaveOut(form(), 'acres', '12'))).to.deep.equal([])
    expect(told(edit.leaveOut(form(), 'acres', 'twelve'))).to.deep.equal([null])
    expect(told(edit.withQuestion(form(), 'acres', { required: false }))).to.deep.equal(['acres'])
    expect(told(edit.withQuestion(form(), 'leased', { when: 'acres > 3' }))).to.deep.equal(['leased'])
    expect(told(edit.withQuestion(form(), 'acres', { when: 'grower.name >' }))).to.deep.equal(['acres'])
    expect(formProblems(form(), sale).length).to.be.greaterThan(3)
  })

  it('says its answers as the reader writes them', () => {
    const said = describeAnswers({ form: form(), outline: season }, { ...whole, leased: true }, speaks('fr'))
    expect(said.find(({ question }) => question === 'leased')?.text).to.equal('Oui')
    expect(said.find(({ question }) => question === 'acres')?.text).to.equal('1,25')
    expect(said.find(({ question }) => question === 'landowner')?.text).to.equal(null)
  })

  it('never loses a field, whatever is done to it in whatever order', () => {
    const ids = questionsOf(form()).map(({ id }) => id)
    const id = fc.constantFrom(...ids)
    const act = fc.oneof(
      fc.tuple(id, fc.constantFrom<1 | -1>(1, -1)).map(
        ([of, by]) =>
          (f: IntakeForm) =>
            edit.moveQuestion(f, of, by),
      ),
      id.map((of) => (f: IntakeForm) => edit.splitPage(f, of)),
      fc.constantFrom('p1', 'p2', 'p3', 'p4').map((page) => (f: IntakeForm) => edit.joinPage(f, page)),
      id.map((of) => (f: IntakeForm) => edit.leaveOut(f, of)),
      id.map((of) => (f: IntakeForm) => edit.askAgain(f, season, of)),
      fc.tuple(id, id, fc.boolean()).map(
        ([of, other, on]) =>
          (f: IntakeForm) =>
            of === other ? f : edit.alsoFills(f, of, other, on),
      ),
      fc.constant(edit.askForFile),
    )
    fc.assert(
      fc.property(fc.array(act, { maxLength: 40 }), (acts) => {
        const end = acts.reduce((now, each) => each(now), form())
        const left = end.leftOut.map(({ field: name }) => name)
        const filled = questionsOf(end).flatMap(({ id: own, kind, also }) =>
          kind === 'value' ? [own, ...also] : [],
        )
        const free = edit.unasked(end, season).map(({ name }) => name)
        // Each is asked, filled along, left out or free: in exactly one of these ways.
        expect([...filled, ...left, ...free].sort()).to.deep.equal([...ids].sort())
        expect(new Set(end.pages.map(({ id: page }) => page)).size).to.equal(end.pages.length)
      }),
      { numRuns: 300 },
    )
  })

  it('tells days, times and moments as the reader’s language writes them, whatever the zone of the machine', () => {
    const told = (type: FieldType, value: string, language: Language) =>
      describeValue({ name: 'at', label: 'At', type, required: false }, value, speaks(language)).replace(
        /[\u202f\u00a0]/g,
        ' ',
      )
    expect(told('date', '2027-03-04', 'en')).to.equal('March 4, 2027')
    expect(told('time', '17:05', 'en')).to.equal('5:05 PM')
    expect(told('time', '17:05', 'fr')).to.equal('17:05')
    expect(told('date and time', '2027-03-04T00:30', 'en')).to.equal('March 4, 2027 at 12:30 AM')
    expect(told('date and time', '2027-03-04T00:30', 'es')).to.equal('4 de marzo de 2027 a las 0:30')
  })
})
