import { expect } from 'chai'
import { DmnModdle } from 'dmn-moddle'
import { unaryTest } from 'feelin'
import { compileUnaryTests } from '#core/expression/compile.ts'
import { number, type Value } from '#core/expression/values/value.ts'
import { saidOfValues } from '#core/rules/cases.ts'
import { namesFor } from '#core/rules/names.ts'
import { readDmn } from '#server/convert/dmn/read.ts'
import { writeDmn } from '#server/convert/dmn/write.ts'
import { seeded } from '#demo/random.ts'
import { seasonNames, tableOf } from '#test/support/rule-tables.ts'
import type { Field } from '#core/outline/field.ts'

const passes = (tests: string, value: Value): Value => {
  const compiled = compileUnaryTests(tests)
  if (!compiled.ok) throw new Error(`${tests}: ${compiled.problem.message}`)
  return compiled.tests.evaluate(value, new Map())
}
const bytes = (text: string) => new TextEncoder().encode(text)

describe('unary tests as OMG DMN 1.3 has them', () => {
  // DMN 1.3, 8.3.3 and 10.3.2.11 with table 54, from memory.
  const examples: readonly (readonly [tests: string, value: Value, result: boolean])[] = [
    ['-', null, true],
    ['< 50', number(10), true],
    ['[18..50]', number(50), true],
    ['(18..50)', number(50), false],
    [']18..50[', number(18), false],
    ['<= 10, > 99', number(100), true],
    ['not("Approved", "Declined")', 'Pending', true],
    ['not(< 5)', number(4), false],
    ['"HIGH", "MEDIUM"', 'MEDIUM', true],
    ['true', false, false],
    ['? > 3 and ? < 5', number(4), true],
    ['starts with(?, "Br")', 'Brightwater', true],
    ['[1, 3, 5]', number(3), true],
    ['null', null, true],
    ['not(null)', null, false],
  ]
  for (const [tests, value, result] of examples)
    it(`${tests} of ${String(value)}`, () => expect(passes(tests, value)).to.equal(result))

  it('agree with another implementation (feelin) on tests and values made up', () => {
    const random = seeded(11)
    const one = () =>
      random.pick([
        () => `${random.pick(['<', '<=', '>', '>='])} ${random.between(-3, 9)}`,
        () => String(random.between(-3, 9)),
        () =>
          `${random.pick(['[', '('])}${random.between(-3, 3)}..${random.between(3, 9)}${random.pick([']', ')'])}`,
      ])()
    for (let i = 0; i < 1500; i++) {
      const list = Array.from({ length: random.between(1, 3) }, one).join(', ')
      const tests = random.next() < 0.3 ? `not(${list})` : list
      const value = random.between(-5, 11)
      const theirs = unaryTest(tests, { '?': value }) as unknown as { value: boolean | null } | boolean
      expect(passes(tests, number(value)), `${tests} of ${value}`).to.equal(
        typeof theirs === 'boolean' ? theirs : theirs.value,
      )
    }
  })
})

describe('hit policies as OMG DMN 1.3, 8.2.8 and its examples have them', () => {
  const field = (name: string, type: Field['type'], choices?: readonly string[]): Field => ({
    name,
    label: name,
    type,
    required: false,
    choices,
  })

  it('unique: applicant risk rating (figure of 8.2.8, from memory)', () => {
    const names = namesFor([{ title: 'Risk', fields: [field('age', 'number'), field('history', 'text')] }])
    const table = tableOf(
      'unique',
      ['age', 'history'],
      [
        ['> 60', '"good"', 'Medium'],
        ['> 60', '"bad"', 'High'],
        ['[25..60]', '-', 'Medium'],
        ['< 25', '"good"', 'Low'],
        ['< 25', '"bad"', 'Medium'],
      ],
    )
    const rated = (age: number, history: string) =>
      saidOfValues(table, { age: String(age), history: JSON.stringify(history) }, names).said
    expect(
      [rated(61, 'good'), rated(61, 'bad'), rated(60, 'bad'), rated(24, 'good'), rated(24, 'bad')].flat(),
    ).to.deep.equal(['Medium', 'High', 'Medium', 'Low', 'Medium'])
  })

  it('first: special discount; priority and output order by the order of the outputs (examples of 8.2.8, from memory)', () => {
    const fields = [field('kind', 'text'), field('place', 'text')]
    const names = namesFor([{ title: 'Discount', fields }])
    const rows = [
      ['"web"', '"us"', '10'],
      ['"phone"', '-', '0'],
      ['-', 'not("us")', '0'],
      ['-', '-', '5'],
    ]
    const given = (policy: 'first' | 'priority' | 'output order' | 'collect', kind: string, place: string) =>
      saidOfValues(
        tableOf(policy, ['kind', 'place'], rows, { priorities: ['10', '5', '0'] }),
        { kind: JSON.stringify(kind), place: JSON.stringify(place) },
        names,
      ).said
    expect(given('first', 'web', 'us')).to.deep.equal(['10'])
    expect(given('first', 'shop', 'us')).to.deep.equal(['5'])
    expect(given('priority', 'phone', 'nl')).to.deep.equal(['5'])
    expect(given('collect', 'phone', 'nl')).to.have.members(['0', '0', '5'])
  })
})

describe('decision models (DMN 1.3 XML) through dmn-moddle', () => {
  const table = tableOf(
    'output order',
    ['total', 'crop', 'bloom', 'land.leased'],
    [
      ['> 80000', 'not("almonds")', '-', '-', 'operations director'],
      ['-', '"cherries", "apples"', '>= date("2027-03-01")', 'true', 'legal'],
    ],
    { priorities: ['operations director', 'legal'], name: 'Ours & <theirs>' },
  )

  it('are read there without a warning, with hit policy, types and order of the outputs', async () => {
    const xml = await writeDmn(table, seasonNames, null)
    const { rootElement, warnings } = await new DmnModdle().fromXML(xml)
    expect(warnings).to.deep.equal([])
    const logic = rootElement.drgElement![0]!.decisionLogic!
    expect(rootElement.drgElement![0]!.name).to.equal('Ours & <theirs>')
    expect(logic.hitPolicy).to.equal('OUTPUT ORDER')
    expect(logic.input!.map(({ inputExpression }) => inputExpression!.typeRef)).to.deep.equal([
      'number',
      'string',
      'date',
      'boolean',
    ])
    expect(logic.output![0]!.outputValues!.text).to.equal('"operations director", "legal"')
    expect(logic.rule![0]!.outputEntry![0]!.text).to.equal('"operations director"')
    const back = await readDmn(bytes(xml))
    expect(back.ok && back.table.rows).to.deep.equal(table.rows)
    expect(back.ok && back.table.priorities).to.deep.equal(table.priorities)
  })

  const theirs = `<?xml version="1.0" encoding="UTF-8"?>
<definitions xmlns="https://www.omg.org/spec/DMN/20191111/MODEL/" xmlns:orchard="http://orchard.example/modeller" id="d1" name="Theirs" namespace="http://orchard.example">
  <inputData id="i0" name="Total" />
  <decision id="dec" name="Who approves" orchard:reviewed="yes">
    <extensionElements><orchard:history by="Odile"><orchard:step n="1" /></orchard:history></extensionElements>
    <decisionTable id="t" hitPolicy="COLLECT" aggregation="SUM">
      <input id="c1" label="Total"><inputExpression id="e1" typeRef="number"><text>total</text></inputExpression></input>
      <output id="o1" name="role" typeRef="string" />
      <output id="o2" name="score" typeRef="number" />
      <rule id="r1" orchard:colour="green"><description>kept</description>
        <inputEntry id="r1c1"><text>&gt; 80000</text></inputEntry>
        <outputEntry id="r1o1"><text>"legal"</text></outputEntry>
        <outputEntry id="r1o2"><text>1 + 1</text></outputEntry>
      </rule>
    </decisionTable>
  </decision>
</definitions>`

  it('of another program keep what it has put there, and what does not fit is told', async () => {
    const read = await readDmn(bytes(theirs))
    if (!read.ok) throw new Error(read.problem)
    expect(read.table.rows[0]).to.deep.equal({
      id: 'r1',
      when: { c1: '> 80000' },
      then: { approver: 'legal' },
      note: 'kept',
    })
    expect(read.report.join(' '))
      .to.contain('InputData “Total”')
      .and.to.contain('aggregation SUM')
      .and.to.contain('“score”')
      .and.to.contain('extensions of another program')
    const changed = {
      ...read.table,
      rows: [...read.table.rows, { id: 'r2', when: {}, then: { approver: 'finance' }, note: '' }],
    }
    const xml = await writeDmn(changed, seasonNames, read.model)
    for (const kept of [
      'orchard:reviewed="yes"',
      '<orchard:step n="1"',
      'orchard:colour="green"',
      'inputData',
      'name="role"',
    ])
      expect(xml, kept).to.contain(kept)
    const again = await readDmn(bytes(xml))
    expect(again.ok && again.table.rows.map(({ then }) => then.approver)).to.deep.equal(['legal', 'finance'])
  })

  it('of DMN 1.1 to 1.5 are read alike, in the encodings that XML has, and written as 1.3', async () => {
    // Target namespaces of the schemas that OMG publishes with each version, from memory.
    const of13 = 'https://www.omg.org/spec/DMN/20191111/MODEL/'
    const versions = [
      'http://www.omg.org/spec/DMN/20151101/dmn.xsd',
      'http://www.omg.org/spec/DMN/20180521/MODEL/',
      of13,
      'https://www.omg.org/spec/DMN/20211108/MODEL/',
      'https://www.omg.org/spec/DMN/20230324/MODEL/',
    ]
    expect(theirs).to.contain(of13)
    for (const version of versions) {
      const xml = theirs.replaceAll(of13, version)
      const read = await readDmn(bytes(xml))
      if (!read.ok) throw new Error(`${version}: ${read.problem}`)
      expect(read.table.rows[0]!.then, version).to.deep.equal({ approver: 'legal' })
      expect(await writeDmn(read.table, seasonNames, read.model)).to.contain(of13)
    }
    const named = theirs.replace('name="Who approves"', 'name="Prüfung"').replace(/<\?xml[^>]*\?>\s*/, '')
    expect(named).to.contain('Prüfung')
    for (const encoded of [
      Buffer.from(`\ufeff${named}`, 'utf16le'),
      Buffer.from(`\ufeff${named}`, 'utf16le').swap16(),
      Buffer.from(`<?xml version="1.0" encoding="ISO-8859-1"?>${named}`, 'latin1'),
      Buffer.from(named, 'utf8'),
    ]) {
      const read = await readDmn(Uint8Array.from(encoded))
      expect(read.ok && read.table.name).to.equal('Prüfung')
    }
  })

  it('with a default of an output, or in another language than FEEL, say so', async () => {
    const xml = theirs
      .replace('hitPolicy=', 'expressionLanguage="http://www.w3.org/1999/XPath" hitPolicy=')
      .replace(
        /(<output [^>]*name="role"[^>]*?)\/>/,
        '$1><defaultOutputEntry><text>"finance"</text></defaultOutputEntry></output>',
      )
    expect(xml).to.contain('defaultOutputEntry')
    const read = await readDmn(bytes(xml))
    if (!read.ok) throw new Error(read.problem)
    expect(read.report.join(' '))
      .to.contain('where no row holds')
      .and.to.contain('another language than FEEL')
  })

  it('that declare entities are not read, however small; nothing grows', async () => {
    const bomb = `<!DOCTYPE x [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;&a;">]>${theirs.replace('Theirs', '&b;')}`
    expect(await readDmn(bytes(bomb))).to.deep.include({ ok: false })
    expect(await readDmn(new Uint8Array(5_000_001))).to.deep.equal({
      ok: false,
      problem: 'The file is larger than 5 MB.',
    })
  })
})
