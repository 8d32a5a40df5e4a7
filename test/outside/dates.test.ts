import { expect } from 'chai'
import fc from 'fast-check'
import pg from 'pg'
import { compileExpression } from '#core/expression/compile.ts'
import { toText } from '#core/expression/values/value.ts'

const ours = (text: string) => {
  const compiled = compileExpression(text)
  return compiled.ok ? toText(compiled.expression.evaluate(new Map())) : compiled.problem.message
}

describe('dates as PostgreSQL computes them', () => {
  let client: pg.Client
  before(async () => {
    client = new pg.Client({ connectionString: process.env['BREVAN_TEST_DATABASE'] })
    await client.connect()
  })
  after(() => client.end())

  const date = fc
    .date({ min: new Date('1900-01-01'), max: new Date('2199-12-31'), noInvalidDate: true })
    .map((d) => d.toISOString().slice(0, 10))

  it('adds months and days of an interval alike, month’s end included', async () => {
    await fc.assert(
      fc.asyncProperty(date, fc.integer({ min: -400, max: 400 }), async (from, months) => {
        const { rows } = await client.query<{ found: string }>(
          `select to_char($1::date + make_interval(months => $2), 'YYYY-MM-DD') as found`,
          [from, months],
        )
        expect(ours(`add months(date("${from}"), ${months})`)).to.equal(rows[0]!.found)
      }),
      { numRuns: 150 },
    )
  })

  it('finds the same last day of the month and the same weekday', async () => {
    await fc.assert(
      fc.asyncProperty(date, async (from) => {
        const { rows } = await client.query<{ last: string; day: string }>(
          `select to_char(date_trunc('month', $1::date) + interval '1 month - 1 day', 'YYYY-MM-DD') as last, to_char($1::date, 'FMDay') as day`,
          [from],
        )
        expect(ours(`last day of month(date("${from}"))`)).to.equal(rows[0]!.last)
        expect(ours(`day of week(date("${from}"))`)).to.equal(rows[0]!.day)
      }),
      { numRuns: 100 },
    )
  })

  it('counts business days as a calendar table of the database does', async () => {
    await fc.assert(
      fc.asyncProperty(date, fc.integer({ min: 1, max: 60 }), async (from, days) => {
        const { rows } = await client.query<{ found: string }>(
          `select to_char(d, 'YYYY-MM-DD') as found from generate_series($1::date + 1, $1::date + 120, interval '1 day') d where extract(isodow from d) < 6 order by d offset $2 - 1 limit 1`,
          [from, days],
        )
        expect(ours(`add business days(date("${from}"), ${days})`)).to.equal(rows[0]!.found)
      }),
      { numRuns: 60 },
    )
  })
})
