import { expect } from 'chai'
import { Client } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'
import { putInForce, rulesThat } from '#test/support/rules.ts'

describe('rule tables', () => {
  let running: Running
  let ines: Client
  let petra: Client

  before(async () => {
    running = await startApp('rule_tables', { sheet: false, past: 0.06 })
    ines = await Client.signedIn(running.url, 'ines.hallow')
    petra = await Client.signedIn(running.url, 'petra.vance')
  })
  after(() => running?.stop())

  const make = async (draft: ReturnType<typeof rulesThat>) =>
    (await ines.call('makeRuleTable', { body: { draft } })).id
  const publish = (id: string, version = 1) =>
    ines.refused('publishRules', { params: { id }, body: { version } })

  it('are kept as drafts, faults and all, and saved by two people: the second is told', async () => {
    const id = await make(rulesThat([['totl >', 'nobody there']]))
    const { draft, version } = await ines.call('ruleTable', { params: { id } })
    const saved = await ines.call('saveRuleDraft', {
      params: { id },
      body: { version, draft: { ...draft, name: 'Mine' } },
    })
    expect(saved.version).to.equal(2)
    const refused = await ines.refused('saveRuleDraft', { params: { id }, body: { version, draft } })
    expect(refused.status).to.equal(409)
    expect(
      (await petra.refused('saveRuleDraft', { params: { id }, body: { version: 2, draft } })).status,
    ).to.equal(403)
  })

  it('are put in force only without a fault, a contradiction, a hole that is none allowed, or a case that fails', async () => {
    expect((await publish(await make(rulesThat([['total > "x"', 'legal']])))).status).to.equal(422)
    const rows = [
      { id: 'a', when: { t: '> 10' }, then: { approver: 'legal' }, note: '' },
      { id: 'b', when: { t: '> 20' }, then: { approver: 'finance' }, note: '' },
    ]
    const table = {
      ...rulesThat([['total', 'x']]),
      hitPolicy: 'unique' as const,
      inputs: [{ id: 't', label: '', expression: 'total' }],
      rows,
    }
    expect((await publish(await make(table))).message).to.contain(
      'contradict each other where Total is over $20.00',
    )
    const whole = { ...table, hitPolicy: 'first' as const, otherwise: 'fault' as const }
    expect((await publish(await make(whole))).message).to.equal(
      'Nobody is asked where Total is at most $10.00.',
    )
    const id = await make({ ...whole, otherwise: 'nothing' })
    await ines.call('keepRuleCase', {
      params: { id },
      body: { name: 'Fifteen', values: { total: '15' }, expected: ['finance'] },
    })
    expect((await publish(id)).message).to.equal('The case “Fifteen” wants finance and would get legal.')
    const shelf = await ines.call('makeShelf', { body: { name: 'Empty', rights: [] } })
    const nowhere = await make({
      ...rulesThat([['total > 1', 'legal']]),
      scope: { kind: 'shelf', id: shelf.id },
    })
    expect((await publish(nowhere)).message).to.contain('No template is in the scope')
  })

  it('keep their editions, which nobody can change, not even in the database', async () => {
    const id = await putInForce(ines, rulesThat([['total > 1', 'legal']], { name: 'Kept' }))
    const edition = await ines.call('ruleEdition', { params: { id, number: 1 } })
    expect(edition.name).to.equal('Kept')
    const change = await running.app.pool
      .query(`update rule_edition set note = 'x' where table_id = $1`, [id])
      .catch((error: Error) => error.message)
    expect(change).to.match(/permission denied/)
    await ines.call('setRulesInForce', { params: { id }, body: { inForce: false } })
    expect((await ines.call('rules')).find((each) => each.id === id)).to.include({
      inForce: false,
      edition: 1,
    })
  })

  it('of more rows than a table takes are refused, and of cells that are too long', async () => {
    const table = rulesThat([['total', 'legal']])
    const rows = Array.from({ length: 5000 }, (_, i) => ({ ...table.rows[0]!, id: `r${i}` }))
    const refused = await ines.refused('makeRuleTable', { body: { draft: { ...table, rows } } })
    expect(refused.problem.faults?.[0]?.detail).to.equal('A table has 1000 rows at the most.')
    const long = { ...table, rows: [{ ...table.rows[0]!, when: { in0: '1'.repeat(2000) } }] }
    expect((await ines.refused('makeRuleTable', { body: { draft: long } })).status).to.equal(422)
  })

  it('look back over what was made, against what is in force, every figure by its agreements', async () => {
    const id = await putInForce(ines, rulesThat([['total > 80000', 'operations director']], { name: 'Back' }))
    const { draft } = await ines.call('ruleTable', { params: { id } })
    const wider = { ...draft, inputs: [{ ...draft.inputs[0]!, expression: 'total > 20000' }] }
    const looked = await ines.call('lookBack', { params: { id }, body: { draft: wider } })
    expect(looked.agreements.length).to.be.greaterThan(20)
    const before = looked.agreements.filter(({ inForce }) => inForce.length)
    const after = looked.agreements.filter(({ draft: asked }) => asked.length)
    expect(after.length).to.be.greaterThan(before.length)
    for (const { id: made, draft: asked } of looked.agreements.slice(0, 6)) {
      const { record, name } = await ines.call('agreement', { params: { id: made } })
      expect(name, String(record?.id)).to.be.a('string')
      const { records } = await ines.call('ruleRecords', { body: { scope: { kind: 'all' }, offset: 0 } })
      const seen = records.find(({ agreement }) => agreement === made)
      if (seen) expect(Number(seen.values['total']) > 20000, seen.number).to.equal(asked.length > 0)
    }
    expect(
      await ines.call('lookBack', { params: { id }, body: { draft: wider, since: '2099-01-01' } }),
    ).to.deep.include({
      agreements: [],
    })
  })

  it('go out as a decision model and come back the same; another’s extensions are kept, what is no model is refused', async () => {
    const id = await putInForce(ines, rulesThat([['total > 80000', 'operations director']], { name: 'Out' }))
    const file = await ines.call('exportRuleTable', { params: { id } })
    const back = await ines.call('importRuleTable', {
      query: { name: 'out.dmn' },
      body: new Uint8Array(await file.arrayBuffer()),
    })
    expect(back.report).to.deep.equal([])
    const [one, other] = await Promise.all(
      [id, back.id].map(async (each) => (await ines.call('ruleTable', { params: { id: each } })).draft),
    )
    expect({ ...other!, inputs: other!.inputs.map((input) => ({ ...input, label: '' })) }).to.deep.equal({
      ...one,
      escalateTo: '',
    })
    const bomb = new TextEncoder().encode(
      '<?xml version="1.0"?><!DOCTYPE d [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;">]><definitions>&b;</definitions>'.padEnd(
        4_900_000,
      ),
    )
    const refused = await ines.refused('importRuleTable', { query: { name: 'bomb.dmn' }, body: bomb })
    expect(refused.message).to.contain('declares a document type or entities')
    for (const text of [
      '',
      'no xml',
      '<a/>',
      '<definitions xmlns="https://www.omg.org/spec/DMN/20191111/MODEL/" id="d" name="n" namespace="n"/>',
    ])
      expect(
        (
          await ines.refused('importRuleTable', {
            query: { name: 'x.dmn' },
            body: new TextEncoder().encode(text || ' '),
          })
        ).status,
      ).to.equal(422)
  })
})
