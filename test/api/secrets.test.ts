import { execFile } from 'node:child_process'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { readFile, writeFile } from 'node:fs/promises'
import { promisify } from 'node:util'
import { expect } from 'chai'
import { renewSecrets, SEALED } from '#server/app/sealed-columns.ts'
import { NONE, type Sealed, Secrets } from '#server/ground/secrets.ts'
import { ownKeys } from '#server/services/signing/seal-keys.ts'
import { timeQuery } from '#server/seal/time-stamp.ts'
import { Client } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'

const run = promisify(execFile)

describe('secrets', () => {
  let running: Running
  let ines: Client
  let kept: Record<string, string>

  before(async () => {
    running = await startApp('secrets', { sheet: false, worker: false })
    ines = await Client.signedIn(running.url, 'ines.hallow')
    const { secret: hook } = await ines.call('makeWebhook', {
      body: { name: 'Ledger', url: 'https://ledger.example/', acts: [] },
    })
    const { id, secret: own } = await ines.call('makeConnection', { body: wish() })
    const sale = (await ines.call('templates')).find(({ name }) => name === 'Colony sale')!.id
    const form = await ines.call('makeIntake', { body: { templates: [sale] } })
    const { url } = await ines.call('openLink', {
      params: { id: form.id },
      body: { name: 'Page', closesAt: null, mostAnswers: null, perHour: 10, origins: [] },
    })
    const keys = await ownKeys(running.app, 'Larkmere Pollination')
    kept = {
      hook: hook.replace('whsec_', ''),
      own: own.replace('whsec_', ''),
      connection: 'sesame-of-theirs',
      link: url.split('/').at(-1)!,
      seal: keys.seal.passphrase,
      root: keys.root.passphrase,
      time: keys.time.passphrase,
      id,
    }
  })
  after(() => running?.stop())

  const wish = (more: object = {}) => ({
    name: 'Growers',
    address: 'https://growers.example',
    description: '',
    auth: { kind: 'basic', user: 'desk', secret: 'sesame-of-theirs' },
    kinds: [],
    everyMinutes: null,
    ...more,
  })

  /** All that the database has, as text. */
  async function everything(): Promise<string> {
    const { rows } = await running.app.pool.query<{ name: string }>(
      `select quote_ident(table_schema) || '.' || quote_ident(table_name) as name from information_schema.tables
       where table_type = 'BASE TABLE' and table_schema in ('public', 'pgboss')`,
    )
    const parts = []
    for (const { name } of rows)
      parts.push(
        (
          await running.app.pool.query<{ all: string }>(
            `select coalesce(string_agg(t::text, ' '), '') as all from ${name} as t`,
          )
        ).rows[0]!.all,
      )
    return parts.join('\n')
  }

  it('are nowhere in the database in the clear', async () => {
    const all = await everything()
    expect(all).to.contain('growers.example')
    for (const [what, secret] of Object.entries(kept))
      if (what !== 'id') expect(all, what).to.not.contain(secret)
    // Whoever keeps the form still sees its address.
    const forms = await ines.call('intakes')
    const { links } = await ines.call('intake', { params: { id: forms[0]!.id } })
    expect(links[0]!.url).to.contain(kept['link'])
  })

  it('that stand in the clear from before are encrypted at the next start, and read as they were', async () => {
    await running.app.pool.query(`update webhook set secret = 'whsec_b2xk'`)
    await running.app.pool.query(`update connection set auth = auth || '{"secret": "from before"}'`)
    expect(await renewSecrets(running.app)).to.equal(2)
    expect(await renewSecrets(running.app)).to.equal(0)
    const { rows } = await running.app.pool.query<{ secret: Sealed }>('select secret from webhook')
    expect(running.app.secrets.open(rows[0]!.secret)).to.equal('whsec_b2xk')
    expect(await everything()).to.not.contain('from before')
  })

  it('are encrypted anew with a new key by a command; the running processes go on', async () => {
    const { settings, secrets } = running.app
    const before = await readFile(settings.secretKeys, 'utf8')
    const { stdout } = await run('node', ['--import', 'tsx', 'server/secrets.ts', 'rotate'], {
      env: { ...process.env, DATABASE_URL: settings.databaseUrl, BREVAN_DATA: settings.dataFolder },
    })
    expect(stdout).to.match(/^\d+ secrets were encrypted anew/)
    const keys = (await readFile(settings.secretKeys, 'utf8')).trim().split('\n')
    expect(keys).to.have.length(2)
    expect(keys[1]).to.equal(before.trim())
    const { rows } = await running.app.pool.query<{ secret: Sealed }>('select secret from webhook')
    expect(secrets.open(rows[0]!.secret)).to.equal('whsec_b2xk')
    // The former key opens nothing that is there now.
    const former = Secrets.ofKey(keys[1]!)
    expect(() => former.open(rows[0]!.secret)).to.throw('another key')
    await writeFile(`${settings.secretKeys}.other`, `${Buffer.alloc(32, 3).toString('base64')}\n`)
    const other = { ...running.app, secrets: Secrets.ofFile(`${settings.secretKeys}.other`) }
    await renewSecrets(other).then(
      () => expect.fail('another key opened them'),
      (error: Error) => expect(error.message).to.contain('Put back the key file'),
    )
  })

  it('that were changed do not open', () => {
    const secrets = Secrets.ofKey(Buffer.alloc(32, 9).toString('base64'))
    const sealed = secrets.seal('sesame')
    expect(secrets.open(sealed)).to.equal('sesame')
    expect(secrets.seal('sesame')).to.not.equal(sealed)
    expect([secrets.seal(''), secrets.open(NONE)]).to.deep.equal(['', ''])
    const bytes = sealed.split('.')
    for (const at of [0, 14, 20]) {
      const changed = Buffer.from(bytes[2]!, 'base64url')
      changed[at]! ^= 1
      expect(() => secrets.open(`v1.${bytes[1]}.${changed.toString('base64url')}` as Sealed)).to.throw()
    }
    expect(SEALED.length).to.be.greaterThan(5)
  })

  it('go to the address that they were given for, and to no other', async () => {
    const seen: string[] = []
    const server = createServer((request, response) => {
      seen.push(String(request.headers.authorization))
      response.setHeader('content-type', 'application/json').end('[]')
    })
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
    const elsewhere = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
    try {
      const { id } = kept as { id: string }
      const version = async () => (await ines.call('connections')).find((each) => each.id === id)!.version
      const auth = { kind: 'basic', user: 'desk', secret: '' }
      const secretOf = async () => {
        const { rows } = await running.app.pool.query<{ auth: { secret: Sealed } }>(
          'select auth from connection where id = $1',
          [id],
        )
        return running.app.secrets.open(rows[0]!.auth.secret)
      }
      await ines.call('saveConnection', {
        params: { id },
        body: { ...wish({ name: 'Renamed', auth }), version: await version() },
      })
      expect(await secretOf()).to.equal('from before')
      await ines.call('saveConnection', {
        params: { id },
        body: { ...wish({ address: elsewhere, auth }), version: await version() },
      })
      expect(await secretOf()).to.equal('')
    } finally {
      server.close()
    }
    expect(seen.filter((each) => each.includes('from'))).to.deep.equal([])
  })

  it('are asked for by the stand-in that tells the time: it stamps for this installation alone', async () => {
    const ask = (headers: Record<string, string>) =>
      fetch(`${running.url}/api/time-stamp`, {
        method: 'POST',
        headers: { 'content-type': 'application/timestamp-query', ...headers },
        body: new Uint8Array(timeQuery(Buffer.from('whatever'))),
      })
    expect((await ask({})).status).to.equal(400)
    expect((await ask({ authorization: 'Bearer x' })).status).to.equal(400)
  })
})
