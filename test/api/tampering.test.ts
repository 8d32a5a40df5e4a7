import { randomUUID } from 'node:crypto'
import { expect } from 'chai'
import { getTableConfig, type PgTable } from 'drizzle-orm/pg-core'
import { agreement, blankValue, party, revision, step } from '#server/db/schema.ts'
import { verifyAgreement } from '#server/services/agreements/verifying.ts'
import { Client } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'
import { clearedOnes, fillAll, linkIn, partyOf, SEASON_ANSWERS } from '#test/support/signing.ts'

/** Of a column: SQL that changes it behind the app's back, which shows; or why its change decides nothing. */
type Column = { readonly change: string } | { readonly decidesNothing: string }
const shows = (change: string): Column => ({ change })
const open = (decidesNothing: string): Column => ({ decidesNothing })

const NAMES = 'it is what the rest hangs on: another one is another agreement'
const WRITES = 'it is what is written to people, not what they sign'
const SEEN = 'it is told of; what counts is the act in the trail'

/** Every column that says something of an agreement. One that is new has to be told of here. */
const COLUMNS: readonly { readonly table: PgTable; readonly columns: Readonly<Record<string, Column>> }[] = [
  {
    table: agreement,
    columns: {
      id: open(NAMES),
      number: shows(`'LP-9999'`),
      name: open(WRITES),
      file_name: open(WRITES),
      edition_id: open('the document is compared, and what was made of it'),
      packet_editions: open('the document is compared, and what was made of it'),
      state: shows(`'withdrawn'`),
      revision: open(
        'there is a document of it or there is not: what points there is refused by the database',
      ),
      data: shows(`'{"colonies": "999"}'`),
      created_by: open('whoever shaped it is compared'),
      created_at: open(SEEN),
      changed_at: open(SEEN),
      sign_by: shows(`now() + interval '300 days'`),
      sent_at: open(SEEN),
      sent_by: open('it says who is written to'),
      goes_at: shows(`now() + interval '1 day', goes_by = created_by`),
      goes_by: open('it is set with the time, which is compared'),
      goes_unread: open('it is set with the time, which is compared'),
      team_id: open(WRITES),
      notice: open('a notice is delivered, which the trail tells'),
      introduction: open('it stands before the text, and its own act has its hash'),
      plan: open(WRITES),
      look_at: open('the clock finds by it what is due, and looks then'),
      subject: open(WRITES),
      message: open(WRITES),
      executed_sha256: open('of an agreement that is executed the file is compared'),
      wording: open('rows are grouped by it'),
      content: open('the document that was made of it is compared'),
      language: open('the document that was made in it is compared'),
      copies: open('it says who is written to'),
      extra: open('it goes along and is no part of what is signed'),
      record_id: open('it says where it is filed'),
      shaped_by: shows(`'{}'`),
      sign_days: open('the date that was worked out by it is compared'),
      trail_length: shows('1'),
      trail_head: shows(`'x'`),
    },
  },
  {
    table: revision,
    columns: {
      agreement_id: open(NAMES),
      number: open(NAMES),
      file_sha256: shows(`(select sha256 from file where sha256 <> file_sha256 limit 1)`),
      pages: open('the document is compared'),
      blanks: shows(`'[]'`),
      parts: open('it says at which pages a packet\u2019s documents begin'),
    },
  },
  {
    table: party,
    columns: {
      id: open(NAMES),
      agreement_id: open(NAMES),
      revision: open(NAMES),
      role: shows(`role || 'x'`),
      label: shows(`label || 'x'`),
      order: shows(`"order" + 1`),
      name: shows(`'Somebody Else'`),
      email: shows(`'else@where.example'`),
      title: shows(`'chief'`),
      kind: shows(`'copy'`),
      language: open('they may change it themselves'),
      phone: shows(`'+15035550100'`),
      link_by: open('it says how they are written to'),
      check: shows(`'mail code'`),
      code_hash: shows(`'00:00', "check" = 'agreed code'`),
      wrong: open('tries are told of one by one'),
      message: open(WRITES),
      copy_now: open('it says who may look'),
      may_decline: open('it can only be taken away from them by the sender, who can withdraw it as well'),
      may_hand_over: shows('not may_hand_over'),
      invited_at: open(SEEN),
      written_at: open(SEEN),
      opened_at: open(SEEN),
      consented_at: open(SEEN),
      signed_at: shows('null'),
      declined_at: shows(`now(), signed_at = null`),
      reason: open(SEEN),
      address: open(SEEN),
      at_device_of: open(SEEN),
      from_form: open(SEEN),
      paper: open('the scan\u2019s hash stands in its act'),
    },
  },
  {
    table: blankValue,
    columns: {
      party_id: open(NAMES),
      blank_id: shows(`blank_id || 'x'`),
      value: shows(`'{"kind": "typed", "text": "Somebody"}'`),
      filled_at: open(SEEN),
    },
  },
  {
    table: step,
    columns: {
      id: open(NAMES),
      agreement_id: open(NAMES),
      revision: open(NAMES),
      round: open('the last one counts'),
      approver: shows(`'nobody'`),
      who: shows(`'[]'`),
      step_order: shows('step_order + 1'),
      reason: open(SEEN),
      reasons: open(SEEN),
      basis: open('what an approval rests on is compared when it is worked out again'),
      days: open(SEEN),
      escalate_to: shows(`'["anybody"]'`),
      escalated_at: open(SEEN),
      state: shows(`'approved', decided_at = now()`),
      since: open(SEEN),
      due_at: open(SEEN),
      reminded_at: open(SEEN),
      handed_to: open('who may decide is asked as it is decided'),
      decided_for: open(SEEN),
      kept_from: open('the approval it is kept from stands in the trail'),
      decided_at: open(SEEN),
      decided_by: open('the trail says who'),
      note: open(SEEN),
    },
  },
]

describe('what is changed behind the app’s back', () => {
  let running: Running
  let ids: { readonly out: string; readonly waiting: string }

  before(async () => {
    running = await startApp('tampering', { sheet: false })
    const ines = await Client.signedIn(running.url, 'ines.hallow')
    const make = await clearedOnes(ines)
    const made = await make()
    await ines.call('sendAgreements', { body: { agreements: [made.id] } })
    const grower = new Client(running.url)
    const token = await linkIn(ines, partyOf(made, 'Grower').email)
    await grower.call('consent', { params: { token } })
    await fillAll(grower, token, 'Maud Ellery')
    await grower.call('finishSigning', { params: { token } })
    // Above 80,000 the operations director is asked.
    const season = (await ines.call('templates')).find(({ name }) => name.startsWith('Season'))!.id
    const { records } = await ines.call('records', { params: { kind: 'customer' } })
    const { id: waiting } = await ines.call('makeOneAgreement', {
      params: { kind: 'customer', id: records[30]!.id },
      body: {
        templateId: season,
        answers: { ...SEASON_ANSWERS, colonies: '600' },
        occasion: randomUUID(),
        another: true,
      },
    })
    expect((await ines.call('agreement', { params: { id: waiting } })).state).to.equal('in approval')
    ids = { out: made.id, waiting }
  })
  after(() => running?.stop())

  it('is told of column by column: each shows, or is listed with the reason', () => {
    for (const { table, columns } of COLUMNS) {
      const { name, columns: own } = getTableConfig(table)
      expect(Object.keys(columns).sort(), name).to.deep.equal(own.map((each) => each.name).sort())
    }
  })

  for (const { table, columns } of COLUMNS) {
    const { name } = getTableConfig(table)
    for (const [column, what] of Object.entries(columns))
      if ('change' in what)
        it(`shows in ${name}.${column}`, async () => {
          const id = table === step ? ids.waiting : ids.out
          expect((await verifyAgreement(running.app, id)).problems).to.deep.equal([])
          const key =
            table === agreement
              ? `id = '${id}'`
              : table === blankValue
                ? `party_id in (select id from party where agreement_id = '${id}')`
                : `agreement_id = '${id}'`
          // Of the one who has signed.
          const only = table === party ? ' and signed_at is not null' : ''
          const quoted = `"${column}"`
          await running.owner(`create table before as select * from ${name} where ${key}`)
          await running.owner(
            `update ${name} set ${quoted} = ${what.change} where ctid = (select ctid from ${name} where ${key}${only} limit 1)`,
          )
          const { problems } = await verifyAgreement(running.app, id)
          await running.owner(`alter table ${name} disable trigger user`)
          if (table === blankValue) await running.owner(`delete from ${name} where ${key}`)
          await restore(name, table)
          await running.owner(`alter table ${name} enable trigger user`)
          await running.owner('drop table before')
          expect(problems, column).to.not.deep.equal([])
          expect((await verifyAgreement(running.app, id)).problems).to.deep.equal([])
        })
  }

  async function restore(name: string, table: PgTable): Promise<void> {
    if (table === blankValue) return running.owner(`insert into ${name} select * from before`)
    const own = getTableConfig(table).columns.map((each) => `"${each.name}"`)
    const same =
      table === revision
        ? `now.agreement_id = before.agreement_id and now.number = before.number`
        : `now.id = before.id`
    const set = own.filter((each) => !['"id"'].includes(each)).map((each) => `${each} = before.${each}`)
    return running.owner(`update ${name} as now set ${set.join(', ')} from before where ${same}`)
  }
})
