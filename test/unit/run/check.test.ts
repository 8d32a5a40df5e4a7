import { expect } from 'chai'
import type { TemplateContent } from '#core/document/template.ts'
import { suggestMapping } from '#core/mapping/suggest.ts'
import { suppliedFields } from '#core/merge/fields.ts'
import { rowChecker, type RunTerms } from '#core/run/check.ts'
import { plainSetup, type RunSetup } from '#core/run/setup.ts'
import type { Cell } from '#core/outline/cell.ts'
import { describeColumn } from '#core/sheet/columns.ts'
import { HEADINGS, soundRows } from '#demo/bookings.ts'
import { priceSchedule } from '#demo/season-packet.ts'
import { seasonAgreement } from '#demo/season-agreement.ts'
import type { RuleTable } from '#core/rules/table.ts'
import { larkmere, tableOf } from '#test/support/rule-tables.ts'

const MORE = ['Language', 'Copies', 'File'] as const
const rows = soundRows().slice(0, 60)
const columns = [
  ...HEADINGS.map((name, i) =>
    describeColumn(
      name,
      rows.map((row) => row[i] ?? null),
    ),
  ),
  ...MORE.map((name) => describeColumn(name, ['text'])),
]

const MADE = {
  author: { name: 'Ines Hallow', post: 'contract administrator', teams: [] },
  from: 'sheet',
  rows: 240,
} as const

const terms = (more: Partial<RunTerms> = {}, setup: Partial<RunSetup> = {}): RunTerms => ({
  contents: [seasonAgreement],
  columns,
  mapping: { ...suggestMapping(suppliedFields(seasonAgreement), columns), first_season: 'New grower' },
  setup: {
    ...plainSetup,
    languageColumn: 'Language',
    copiesColumn: 'Copies',
    fileColumn: 'File',
    ...setup,
  },
  rules: { tables: [], directory: larkmere, facts: MADE },
  today: '2026-11-26',
  sender: { name: 'Ines Hallow', email: 'ines.hallow@larkmere.example', title: '', company: 'Larkmere' },
  files: ['Map.pdf'],
  ...more,
})

/** A sound row with other values in some of its columns. */
const row = (changed: Readonly<Record<string, Cell>> = {}) => ({
  row: 7,
  cells: columns.map(({ name }, i) => (name in changed ? changed[name]! : (rows[0]![i] ?? null))),
})
const check = (
  changed: Readonly<Record<string, Cell>>,
  using = terms(),
  answers: Readonly<Record<string, string>> = {},
) => rowChecker(using)({ rows: [row(changed)], answers })
const messages = (checked: ReturnType<typeof check>) => checked.problems.map(({ message }) => message)

describe('checking a row', () => {
  it('tells what it comes to: its name, its people, its wording', () => {
    const checked = check({ 'Leased land': 'no', Organic: 'yes' })
    expect(checked.problems).to.deep.equal([])
    expect(checked).to.include({ row: 7, label: rows[0]![HEADINGS.indexOf('Orchard')], language: null })
    expect(checked.people.map(({ email }) => email)).to.include(rows[0]![HEADINGS.indexOf('E-mail')])
    expect(checked.wording).to.not.equal(check({ 'Leased land': 'no', Organic: 'no' }).wording)
  })

  it('tells a missing value once, not what is worked out from it too', () => {
    expect(messages(check({ 'Price per colony': null }))).to.deep.equal(['“Price per colony” is missing.'])
  })

  it('takes a value that somebody gave for this row', () => {
    const asked = terms({}, { askRows: ['payment_days'] })
    expect(check({}, asked).problems[0]).to.include({ field: 'payment_days', kind: 'asked' })
    const answered = check({}, asked, { payment_days: '21' })
    expect(answered.problems).to.deep.equal([])
    expect(answered.data['payment_days']).to.equal('21')
  })

  it('asks by the rules, with the reason', () => {
    const table = tableOf('collect', ['colonies'], [['> 10', 'operations director']])
    const using = terms({
      rules: { tables: [{ id: 't', edition: 1, table }], directory: larkmere, facts: MADE },
    })
    expect(check({ Colonies: 40 }, using).approvals).to.deep.equal([
      { approver: 'operations director', reason: 'Colonies 40 is over 10' },
    ])
    expect(check({ Colonies: 4 }, using).approvals).to.deep.equal([])
  })

  it('tells what a rule refuses, and where a rule cannot decide', () => {
    const refusing = tableOf('collect', ['colonies'], [['> 10', '']], { outputs: [{ key: 'refuse' }] })
    const rules = (table: RuleTable) =>
      terms({ rules: { tables: [{ id: 't', edition: 2, table }], directory: larkmere, facts: MADE } })
    const refused = { ...refusing, rows: [{ ...refusing.rows[0]!, then: { refuse: 'No more than ten' } }] }
    expect(messages(check({ Colonies: 40 }, rules(refused)))).to.deep.equal([
      'Not to be made: No more than ten (row 1 of Season approvals, edition 2)',
    ])
    expect(messages(check({ Colonies: 4 }, rules(refused)))).to.deep.equal([])
    const undecided = tableOf('collect', ['discount'], [['> 10', 'sales lead']])
    expect(messages(check({ 'Discount %': null }, rules(undecided)))).to.deep.equal([
      '“Discount” is missing, and row 1 asks for it. (Season approvals, edition 2)',
    ])
  })

  it('reads its language, who else gets it, and the file by whatever letters', () => {
    const checked = check({ Language: 'Spanish', Copies: 'a@b.example; c@d.example', File: 'MAP.PDF' })
    expect(checked.problems).to.deep.equal([])
    expect(checked).to.deep.include({
      language: 'es',
      copies: ['a@b.example', 'c@d.example'],
      file: 'Map.pdf',
    })
  })

  it('tells what of these is none', () => {
    const checked = check({ Language: 'Klatch', Copies: 'nobody', File: 'lost.pdf' })
    expect(messages(checked)).to.deep.equal([
      '“Klatch” is none of the languages known here.',
      '“nobody” is not an email address.',
      'The file “lost.pdf” has not been uploaded to this run.',
    ])
    expect(checked.file).to.equal(null)
  })

  it('checks all documents of a packet against the one record', () => {
    const packet = terms({ contents: [seasonAgreement, priceSchedule] })
    expect(check({}, packet).problems).to.deep.equal([])
    expect(messages(check({ 'Price per colony': null }, packet))).to.deep.equal([
      '“Price per colony” is missing.',
    ])
  })

  it('does not begin with a wording that has faults', () => {
    const broken: TemplateContent = {
      ...seasonAgreement,
      outline: seasonAgreement.outline.filter(({ name }) => name !== 'colonies'),
    }
    expect(() => check({}, terms({ contents: [broken] }))).to.throw('cannot be merged')
  })
})
