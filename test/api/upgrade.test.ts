import { expect } from 'chai'
import pg from 'pg'
import { migrate } from '#server/db/connect.ts'
import { freshDatabase } from '#test/support/database.ts'
import { counts, fill, journal, migrateTo } from '#test/support/old-database.ts'

const { entries } = await journal()

describe('a database of an earlier version, with data in every table', () => {
  // Before it rules were kept in another way, of which no installation is left. Of those since, some and the last.
  const OLDEST = 15
  const some = entries.filter(({ idx }) => idx >= OLDEST && idx % 10 === 5 && idx < entries.length - 1)
  for (const { idx, tag } of [...some, entries.at(-2)!])
    it(`comes up to date from ${tag}, and loses no row`, async () => {
      const database = await freshDatabase(`upgrade_${idx}`)
      const client = new pg.Client({ connectionString: database.ownerUrl })
      await client.connect()
      try {
        await migrateTo(client, idx)
        const before = await fill(client)
        await migrate({ databaseUrl: database.url, ownerUrl: database.ownerUrl })
        const after = await counts(client)
        const fewer = [...before].filter(([table, rows]) => (after.get(table) ?? 0) < rows)
        expect(fewer).to.deep.equal([])
      } finally {
        await client.end()
        await database.drop()
      }
    })

  it('calls an access code of before an agreed code, and still knows the code', async () => {
    const database = await freshDatabase('upgrade_code')
    const client = new pg.Client({ connectionString: database.ownerUrl })
    await client.connect()
    try {
      await migrateTo(client, entries.find(({ tag }) => tag === '0036_claim_time')!.idx)
      await fill(client)
      await client.query(`update party set "check" = 'access code', code_hash = 'a:b'`)
      await migrate({ databaseUrl: database.url, ownerUrl: database.ownerUrl })
      const { rows } = await client.query(`select "check", code_hash from party`)
      expect(rows).to.deep.equal([{ check: 'agreed code', code_hash: 'a:b' }])
    } finally {
      await client.end()
      await database.drop()
    }
  })
})
