import { expect } from 'chai'
import { compileUnaryTests } from '#core/expression/compile.ts'
import { number } from '#core/expression/values/value.ts'
import { runRuleCase, saidOfValues } from '#core/rules/cases.ts'
import { plainTests, typedCell } from '#core/rules/cell.ts'
import { chosen } from '#core/rules/decide.ts'
import { lackingNames, tableFaults, testedBy } from '#core/rules/faults.ts'
import { namesFor } from '#core/rules/names.ts'
import { approverFigures, weekFigures } from '#core/rules/look-back.ts'
import { larkmere, SEASON, seasonNames, tableOf } from '#test/support/rule-tables.ts'

const tested = (expression: string) => testedBy({ expression }, seasonNames)
const typed = (expression: string, text: string) => typedCell(text, tested(expression), seasonNames.types)
const plain = (expression: string, text: string) =>
  plainTests(text, (value) => seasonNames.words.show(value, expression))

describe('a cell', () => {
  it('is written as in any sheet', () => {
    expect(typed('total', 'over 80,000')).to.equal('> 80000')
    // FEEL would take these for lists.
    expect(typed('total', '> 80,000')).to.equal('> 80000')
    expect(typed('total', '>= 1,250,000, < 5')).to.equal('>= 1250000, < 5')
    expect(typed('total', '[20,000..80,000]')).to.equal('[20000..80000]')
    expect(typed('total', '> 80, 100')).to.equal('> 80, 100')
    expect(typed('total', '20,000 to 80,000')).to.equal('[20000..80000]')
    expect(typed('total', '$5')).to.equal('5')
    expect(typed('discount', 'at most 10 %')).to.equal('<= 10')
    expect(typed('land.leased', 'yes')).to.equal('true')
    expect(typed('crop', 'Almonds, apples')).to.equal('"almonds", "apples"')
    expect(typed('crop', 'not almonds')).to.equal('not("almonds")')
    expect(typed('bloom', 'before 2027-03-01')).to.equal('< date("2027-03-01")')
    expect(typed('county', 'empty')).to.equal('null')
    expect(typed('county', '')).to.equal('-')
  })

  it('stays as it was written where it is FEEL, or where nothing is understood', () => {
    expect(typed('total', '> 5, < 2')).to.equal('> 5, < 2')
    expect(typed('total', 'a lot')).to.equal('a lot')
  })

  it('is said in plain words beside it', () => {
    expect(plain('total', '> 80000')).to.equal('over $80,000.00')
    expect(plain('total', '[1..2), > 5')).to.equal('at least $1.00 and under $2.00 or over $5.00')
    expect(plain('land.leased', 'true')).to.equal('yes')
    expect(plain('crop', 'not("almonds", "apples")')).to.equal('not almonds or apples')
    expect(plain('county', 'not(null)')).to.equal('filled')
    expect(plain('county', 'contains(?, "x")')).to.equal('where contains(?, "x")')
  })

  it('reads a value against its tests, `-` and nothing as anything', () => {
    const passes = (text: string, value: number) => {
      const compiled = compileUnaryTests(text)
      return compiled.ok && compiled.tests.evaluate(number(value), new Map())
    }
    expect([
      passes('-', 1),
      passes('', 1),
      passes('not(1, 2)', 1),
      passes('? > 0 and ? < 2', 1),
    ]).to.deep.equal([true, true, false, true])
  })
})

describe('faults of a table', () => {
  it('stand at their cells, with what may have been meant', () => {
    const table = tableOf(
      'unique',
      ['totl', 'total'],
      [
        ['-', '> "x"', 'legl'],
        ['-', 'leased', 'legal'],
      ],
    )
    const faults = tableFaults(table, seasonNames, larkmere)
    expect(faults.map(({ row, column, meant }) => [row, column, meant])).to.deep.equal([
      [null, 'in0', 'total'],
      ['row1', 'in1', null],
      ['row2', 'in1', null],
      ['row1', 'approver', 'legal'],
    ])
  })

  it('tell a name that means two things, and names that not all templates have', () => {
    const other = {
      title: 'Colony sale',
      fields: SEASON.filter(({ name }) => name !== 'discount').map((each) =>
        each.name === 'county' ? { ...each, type: 'number' as const } : each,
      ),
    }
    const names = namesFor([{ title: 'Season', fields: SEASON }, other])
    const table = tableOf('unique', ['county', 'discount'], [['-', '> 1']])
    expect(tableFaults(table, names, larkmere)[0]!.message).to.equal(
      '“county” is string in Season and number in Colony sale.',
    )
    expect([...lackingNames(table, names)]).to.deep.equal([['discount', ['Colony sale']]])
  })

  it('facts mean the same everywhere, and come before a template’s own', () => {
    const field = { ...SEASON[0]!, name: 'run.rows', type: 'text' as const }
    expect(namesFor([{ title: 'Odd', fields: [field] }]).types.get('run.rows')).to.equal('number')
  })

  it('a row that says nothing is one; “nobody” says something', () => {
    const table = tableOf(
      'collect',
      ['total'],
      [
        ['> 1', ''],
        ['> 2', 'nobody'],
      ],
    )
    expect(tableFaults(table, seasonNames, larkmere).map(({ row }) => row)).to.deep.equal(['row1'])
  })
})

describe('hit policies', () => {
  const rows = [
    ['> 1', 'finance'],
    ['> 2', 'legal'],
    ['> 3', 'finance'],
  ]
  const of = (policy: Parameters<typeof tableOf>[0]) =>
    chosen(tableOf(policy, ['total'], rows, { priorities: ['legal', 'finance'] }), [0, 1, 2])

  it('make of rows that hold what DMN says', () => {
    expect(of('unique')).to.include({ ok: false })
    expect(of('any')).to.include({ ok: false })
    expect(of('first')).to.deep.equal({ ok: true, rows: [0] })
    expect(of('priority')).to.deep.equal({ ok: true, rows: [1] })
    expect(of('collect')).to.deep.equal({ ok: true, rows: [0, 1, 2] })
    expect(of('rule order')).to.deep.equal({ ok: true, rows: [0, 1, 2] })
    expect(of('output order')).to.deep.equal({ ok: true, rows: [1, 0, 2] })
  })
})

describe('cases of a table', () => {
  const table = tableOf(
    'collect',
    ['total', 'land.leased'],
    [
      ['> 80000', '-', 'operations director'],
      ['-', 'true', 'legal'],
    ],
  )

  it('are run on the values of its columns', () => {
    const saved = {
      name: 'x',
      values: { total: '90000', 'land.leased': 'true' },
      expected: ['legal', 'operations director'],
    }
    expect(runRuleCase(table, saved, seasonNames)).to.include({ passed: true })
    expect(runRuleCase(table, { ...saved, expected: ['legal'] }, seasonNames)).to.include({ passed: false })
    expect(saidOfValues(table, { total: '1' }, seasonNames).said).to.deep.equal([])
  })
})

describe('figures of looking back', () => {
  const looked = [
    { id: 'a', week: '2026-11-16', draft: ['legal', 'finance'], inForce: ['legal'] },
    { id: 'b', week: '2026-11-23', draft: ['legal'], inForce: [] },
    { id: 'c', week: '2026-11-16', draft: [], inForce: ['finance'] },
  ]
  it('count by approver, each with its agreements, and what changes', () => {
    expect(approverFigures(looked)).to.deep.equal([
      { approver: 'legal', draft: ['a', 'b'], inForce: ['a'], more: ['b'], fewer: [] },
      { approver: 'finance', draft: ['a'], inForce: ['c'], more: ['a'], fewer: ['c'] },
    ])
    expect(weekFigures(looked).map(({ week, asked }) => [week, asked.get('legal')])).to.deep.equal([
      ['2026-11-16', 1],
      ['2026-11-23', 1],
    ])
  })
})
