import { expect } from 'chai'
import { compileExpression } from '#core/expression/compile.ts'
import { type Context, number, type Value } from '#core/expression/values/value.ts'
import { Temporal } from 'temporal-polyfill'
import { analyse } from '#core/rules/analysis/analyse.ts'
import { type Finding } from '#core/rules/analysis/finding.ts'
import { chosen, type Decided, priorityOf, rowsThatHold, sameOutputs } from '#core/rules/decide.ts'
import type { HitPolicy, RuleTable } from '#core/rules/table.ts'
import { seeded } from '#demo/random.ts'
import { seasonNames, tableOf } from '#test/support/rule-tables.ts'

const of = (table: RuleTable, kind: Finding['kind']) =>
  analyse(table, seasonNames).findings.filter((finding) => finding.kind === kind)

const decided = (values: Readonly<Record<string, Value>>): Decided => ({
  context: contextOf(values),
  knows: () => true,
  words: seasonNames.words,
})

function contextOf(values: Readonly<Record<string, Value>>): Context {
  const context = new Map<string, Value>(Object.entries(values))
  if ('land.leased' in values) context.set('land', new Map([['leased', values['land.leased']!]]))
  return context
}

const literalValue = (text: string): Value => {
  const compiled = compileExpression(text)
  return compiled.ok ? compiled.expression.evaluate(new Map()) : null
}

describe('analysis of a rule table', () => {
  it('tells what no row covers, with a case and the row that would close it', () => {
    const table = tableOf(
      'unique',
      ['total', 'land.leased'],
      [
        ['< 20000', '-', 'nobody'],
        ['[20000..80000]', 'false', 'sales lead'],
        ['> 80000', '-', 'operations director'],
      ],
    )
    const [hole, ...more] = of(table, 'hole')
    expect(more).to.have.length(0)
    expect(hole!.says).to.equal(
      'Nobody is asked where Total is $20,000.00 to $80,000.00 and Land leased is yes.',
    )
    expect(hole!.cells).to.deep.equal({ in0: '[20000..80000]', in1: 'true' })
    expect(hole!.example).to.deep.equal({ total: '50000', 'land.leased': 'true' })
  })

  it('a date that follows the day before leaves no hole between', () => {
    const table = tableOf('unique', ['bloom'], [['<= date("2027-02-28")'], ['>= date("2027-03-01")']])
    expect(of(table, 'hole')).to.have.length(0)
  })

  it('choices are all there is; texts always have another', () => {
    expect(of(tableOf('unique', ['crop'], [['"almonds", "cherries"'], ['"apples"']]), 'hole')).to.have.length(
      0,
    )
    const [hole] = of(tableOf('unique', ['county'], [['"Kern"'], ['"Tulare"']]), 'hole')
    expect(hole!.cells).to.deep.equal({ in0: 'not("Kern", "Tulare")' })
  })

  it('tells rows that contradict each other under a policy that allows one, and not where all count', () => {
    const rows = [
      ['> 80000', 'operations director'],
      ['> 50000', 'finance'],
    ]
    expect(of(tableOf('unique', ['total'], rows), 'contradiction')[0]!.says).to.equal(
      'Rows 1 and 2 contradict each other where Total is over $80,000.00.',
    )
    expect(of(tableOf('collect', ['total'], rows), 'contradiction')).to.have.length(0)
    expect(of(tableOf('first', ['total'], rows), 'overlap')[0]!.says).to.contain('row 1 counts')
  })

  it('tells rows that never hold, and rows that others take all cases from', () => {
    expect(of(tableOf('collect', ['total'], [['? > 5 and ? < 3']]), 'never')).to.have.length(1)
    const table = tableOf('first', ['total'], [['< 10'], ['>= 10', 'finance'], ['5', 'sales']])
    expect(of(table, 'never').map(({ rows }) => rows[0])).to.deep.equal([2])
    expect(of(tableOf('collect', ['crop'], [['"pears"']]), 'never')).to.have.length(1)
  })

  it('tells a row that another one covers, and two that could be one', () => {
    expect(of(tableOf('collect', ['total'], [['> 10'], ['> 20']]), 'covered')[0]!.rows).to.deep.equal([1, 0])
    const [joined] = of(tableOf('unique', ['total'], [['[0..10]'], ['(10..20]']]), 'joinable')
    expect(joined!.cells).to.deep.equal({ in0: '[0..20]' })
  })

  it('says where it cannot decide, and is not certain then', () => {
    const analysis = analyse(tableOf('unique', ['county'], [['contains(?, "x")'], ['"Kern"']]), seasonNames)
    expect(analysis.limits[0]).to.contain('contains(?, "x")')
    expect(
      analysis.findings.filter(({ kind }) => kind === 'contradiction').map(({ weight }) => weight),
    ).to.deep.equal(['question'])
  })

  it('agrees with going through every case of made-up tables: all there is found, and nothing invented', () => {
    const policies: readonly HitPolicy[] = ['unique', 'any', 'first', 'priority', 'collect']
    for (let seed = 1; seed <= 60; seed++) {
      const { next: random, pick } = seeded(seed)
      const table = tableOf(
        pick(policies),
        ['total', 'bloom', 'land.leased', 'crop', 'county'],
        Array.from({ length: 1 + Math.floor(random() * 6) }, () => [
          ...CELLS.map((cells) => (random() < 0.4 ? '-' : pick(cells))),
          pick(['legal', 'finance', 'sales lead']),
        ]),
        { priorities: ['finance', 'sales lead', 'legal'] },
      )
      agreesWithBruteForce(table, seed)
    }
  })
})

const CELLS: readonly (readonly string[])[] = [
  ['> 10', '<= 10', '[5..20]', '(5..10)', '10', '5, 20', 'not(10)', '? > 5 and ? <= 20', '> 20, < 5'],
  [
    '<= date("2027-02-28")',
    '>= date("2027-03-01")',
    '[date("2027-02-27")..date("2027-03-02")]',
    'not(date("2027-03-01"))',
  ],
  ['true', 'false', 'not(true)'],
  ['"almonds"', 'not("almonds")', '"cherries", "apples"'],
  ['"Kern"', 'not("Kern", "Tulare")', '"Tulare"', 'null', 'not(null)'],
]

const day = (text: string) => Temporal.PlainDate.from(text)
/** Every case that the cells above tell apart, and more. */
const GRID: readonly (readonly Value[])[] = [
  [-1, 4.9, 5, 7, 10, 10.1, 20, 21].map(number),
  ['2027-02-26', '2027-02-27', '2027-02-28', '2027-03-01', '2027-03-02', '2027-03-03'].map(day),
  [true, false],
  ['almonds', 'cherries', 'apples'],
  ['Kern', 'Tulare', 'Fresno', null],
]
const NAMES = ['total', 'bloom', 'land.leased', 'crop', 'county']

function agreesWithBruteForce(table: RuleTable, seed: number): void {
  const asksMissing = table.rows.some(({ when }) => /null/.test(when['in4'] ?? ''))
  const cases: { of: Decided; holding: readonly number[] }[] = []
  const walk = (values: Readonly<Record<string, Value>>, at: number): void => {
    if (at < NAMES.length)
      return GRID[at]!.forEach((value) => walk({ ...values, [NAMES[at]!]: value }, at + 1))
    // A missing value is a case of its own only where a cell asks for it; else the table says what becomes of it.
    if (values['county'] === null && !asksMissing) return
    const each = decided(values)
    cases.push({ of: each, holding: rowsThatHold(table, each) })
  }
  walk({}, 0)
  const { findings, limits } = analyse(table, seasonNames)
  expect(limits, `seed ${seed}`).to.have.length(0)
  const found = (kind: Finding['kind']) => findings.filter((each) => each.kind === kind)
  const holdsIn = (finding: Finding) => {
    const whole = tableOf('collect', NAMES, [NAMES.map((_, i) => finding.cells![`in${i}`] ?? '-')])
    return (each: Decided) => rowsThatHold(whole, each).length === 1
  }
  const holes = found('hole').map(holdsIn)
  for (const { of: each, holding } of cases)
    expect(
      holes.filter((hole) => hole(each)).length,
      `seed ${seed}: a case with ${holding.length} rows, ${[...each.context].join()}`,
    ).to.equal(holding.length ? 0 : 1)
  for (const hole of found('hole')) {
    const example = Object.fromEntries(
      Object.entries(hole.example).map(([name, text]) => [name, literalValue(text)]),
    )
    const { of: first } = cases[0]!
    const values = decided({
      ...Object.fromEntries(NAMES.map((name, i) => [name, i === 2 ? true : first.context.get(name)!])),
      ...example,
    })
    expect(rowsThatHold(table, values), `seed ${seed}: the case of a hole, ${hole.says}`).to.have.length(0)
  }
  // Pairs that the policy does not let stand together, by the cases themselves.
  const pairs = new Set<string>()
  for (const { holding } of cases)
    for (const i of holding)
      for (const j of holding) if (i < j && !chosen(table, [i, j]).ok) pairs.add(`${i} ${j}`)
  expect(new Set(found('contradiction').map(({ rows }) => rows.join(' '))), `seed ${seed}`).to.deep.equal(
    pairs,
  )
  const counting = new Set(
    cases.flatMap(({ holding }) => {
      const allowed = chosen(table, holding)
      return allowed.ok && (table.hitPolicy === 'first' || table.hitPolicy === 'priority')
        ? allowed.rows
        : holding
    }),
  )
  expect(
    found('never')
      .map(({ rows }) => rows[0])
      .sort(),
    `seed ${seed}: ${table.hitPolicy}`,
  ).to.deep.equal(table.rows.map((_, i) => i).filter((i) => !counting.has(i)))
  for (const {
    rows: [row, by],
  } of found('covered')) {
    expect(sameOutputs(table, table.rows[row!]!, table.rows[by!]!)).to.equal(true)
    for (const { holding } of cases)
      if (holding.includes(row!)) expect(holding, `seed ${seed}`).to.include(by!)
  }
  for (const finding of found('joinable')) {
    const joined = holdsIn(finding)
    for (const { of: each, holding } of cases)
      expect(joined(each), `seed ${seed}: ${finding.says}`).to.equal(
        finding.rows.some((row) => holding.includes(row)),
      )
  }
  expect(priorityOf(table, table.rows[0]!)).to.be.at.least(0)
}
