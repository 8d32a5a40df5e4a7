import { expect } from 'chai'
import fc from 'fast-check'
import { and, eq } from 'drizzle-orm'
import { filterRecords } from '#core/records/filter.ts'
import { prepareOutline } from '#core/outline/record.ts'
import { record } from '#server/db/schema.ts'
import { findRecords } from '#server/services/records/records.ts'
import { fieldsOf } from '#server/services/records/record-fields.ts'
import { whereInSql } from '#server/services/records/record-where.ts'
import { type Running, startApp } from '#test/support/running.ts'

describe('conditions over records, as far as the database decides them', () => {
  let running: Running
  before(async () => (running = await startApp('record_where', { sheet: false, worker: false })))
  after(() => running?.stop())

  it('let through what the whole condition does, and never less', async function () {
    this.timeout(120_000)
    const { app } = running
    const fields = await fieldsOf(app.db, 'customer')
    const prepared = prepareOutline(fields)
    if (!prepared.ok) throw new Error(prepared.problems[0]!.message)
    const all = await app.db.select().from(record).where(eq(record.kind, 'customer'))
    const values = [
      ...new Set(all.flatMap(({ data }) => Object.values(data)).filter((value) => typeof value === 'string')),
    ]
    const names = fields.filter(({ type }) => type !== 'list').map(({ name }) => name)
    const literal = fc.oneof(
      fc.constantFrom(...values.slice(0, 60)).map((value) => JSON.stringify(value)),
      fc.constantFrom('null', 'true', '0', '12', '120.5', '1000000', 'date("2027-03-01")', '"x\\" or 1=1"'),
    )
    const comparison = fc
      .tuple(
        fc.constantFrom(...names),
        fc.constantFrom('=', '!=', '<', '<=', '>', '>='),
        literal,
        fc.boolean(),
      )
      .map(([name, operator, value, turned]) =>
        turned ? `${value} ${operator} ${name}` : `${name} ${operator} ${value}`,
      )
    const condition = fc
      .array(
        fc.oneof({ weight: 4, arbitrary: comparison }, { weight: 1, arbitrary: fc.constantFrom(...names) }),
        { minLength: 1, maxLength: 3 },
      )
      .map((parts) => parts.join(' and '))
    let narrowed = 0
    await fc.assert(
      fc.asyncProperty(condition, async (where) => {
        const expected = filterRecords(prepared.ready, all, { search: '', where, sort: '' }).map(
          ({ id }) => id,
        )
        const sql = whereInSql(fields, where)
        const passed = await app.db
          .select({ id: record.id })
          .from(record)
          .where(and(eq(record.kind, 'customer'), sql))
        if (passed.length < all.length) narrowed++
        const ids = new Set(passed.map(({ id }) => id))
        expect(
          expected.every((id) => ids.has(id)),
          where,
        ).to.equal(true)
      }),
      { numRuns: 300 },
    )
    expect(narrowed).to.be.greaterThan(30)
    const found = await findRecords(app, 'customer', { search: '', where: 'name != null', sort: '' })
    expect(found.length).to.equal(all.filter(({ archivedAt }) => archivedAt === null).length)
  })
})
