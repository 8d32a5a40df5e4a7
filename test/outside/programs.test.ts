import { execFile, execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Validator } from '@seriousme/openapi-schema-validator'
import { expect } from 'chai'
import openapiTS, { astToString } from 'openapi-typescript'
import { roomFile } from '#server/ground/room.ts'
import { openApi } from '#server/http/openapi.ts'
import { SCOPES } from '#contract/scope.ts'
import { Client } from '#test/support/client.ts'
import { startApp } from '#test/support/running.ts'

/**
 * What a program does that knows nothing but the published description: its types come from that, so that what is not in it
 * does not compile. Started with the server's address and a key.
 */
const PROGRAM = `
import createClient from 'openapi-fetch'
import type { paths } from './v1.ts'

const [url = '', key = ''] = process.argv.slice(2)
const client = createClient<paths>({ baseUrl: url + '/api', headers: { authorization: 'Bearer ' + key } })

const found = (await client.GET('/v1/templates')).data?.find(({ name }) => name === 'Colony sale')
if (!found) throw new Error('no template')
const { data: needs } = await client.GET('/v1/templates/{id}', { params: { path: { id: found.id } } })
const started = await client.POST('/v1/agreements', {
  params: { header: { 'Idempotency-Key': 'outside-1' } },
  body: {
    template: found.id,
    data: {
      buyer: { name: 'Fennel Bottom Farm', contact: 'Ottilie Crane', email: 'ottilie.crane@fennelbottom.example', address: '3 Mill Row, Sedge Harbor' },
      handover: '2027-05-10',
      payment: 'in advance',
      lots: [{ kind: 'Queen', grade: 'B', quantity: 3, price: 42 }],
    },
  },
})
if (!started.data) throw new Error(JSON.stringify(started.error))
let now: { state: 'taken' | 'made' | 'refused'; agreement: string | null } = started.data
while (now.state === 'taken') {
  await new Promise((resolve) => setTimeout(resolve, 100))
  const { data } = await client.GET('/v1/starts/{id}', { params: { path: { id: started.data.id } } })
  if (!data) throw new Error('lost')
  now = data
}
const id = now.agreement ?? ''
const sent = await client.POST('/v1/agreements/{id}/send', { params: { path: { id } } })
const { data: whole } = await client.GET('/v1/agreements/{id}', { params: { path: { id } } })
const { data: page } = await client.GET('/v1/agreements', { params: { query: { state: 'out' } } })
const wrong = await client.POST('/v1/agreements', { body: { template: found.id, data: { handover: 'soon' } } })
console.log(JSON.stringify({
  needs: Object.keys((needs?.schema['properties'] ?? {}) as object),
  status: started.response.status,
  state: sent.data?.state,
  parties: whole?.parties.map(({ email }) => email),
  listed: page?.agreements.some((each) => each.id === id),
  pointers: wrong.error?.faults?.map(({ pointer }) => pointer),
}))
`

describe('the interface for programs', () => {
  for (const programs of [true, false])
    it(`is described as OpenAPI 3.1 says (its JSON Schema, by @seriousme/openapi-schema-validator): ${programs ? 'what is promised' : 'the whole'}`, async () => {
      const document = openApi('http://127.0.0.1:4380', { programs })
      const { valid, errors } = await new Validator().validate(structuredClone(document))
      expect(errors ?? []).to.deep.equal([])
      expect(valid).to.equal(true)
    })

  it('drives the whole job from types made of its description alone (openapi-typescript, openapi-fetch, tsc)', async function () {
    this.timeout(120_000)
    const running = await startApp('outside_programs')
    const folder = mkdtempSync(roomFile('node_modules/.programs-'))
    try {
      const ines = await Client.signedIn(running.url, 'ines.hallow')
      const { secret } = await ines.call('makeKey', { body: { name: 'Outside', scopes: SCOPES, days: 1 } })
      const described = (await (await fetch(`${running.url}/api/v1/openapi.json`)).json()) as object
      writeFileSync(join(folder, 'v1.ts'), astToString(await openapiTS(JSON.stringify(described))))
      writeFileSync(join(folder, 'program.mts'), PROGRAM)
      execFileSync(
        roomFile('node_modules/.bin/tsc'),
        [
          '--noEmit',
          '--strict',
          '--skipLibCheck',
          '--target',
          'es2022',
          '--module',
          'nodenext',
          '--allowImportingTsExtensions',
          '--types',
          'node',
          join(folder, 'program.mts'),
        ],
        { cwd: folder },
      )
      const said = await new Promise<string>((resolve, reject) => {
        execFile(
          process.execPath,
          ['--import', 'tsx', join(folder, 'program.mts'), running.url, secret],
          { cwd: roomFile('.') },
          (error, stdout, stderr) => (error ? reject(new Error(stderr)) : resolve(stdout)),
        )
      })
      const done = JSON.parse(said) as Record<string, unknown>
      expect(done).to.include({ status: 202, state: 'out', listed: true })
      expect(done['needs']).to.include.members(['buyer', 'lots'])
      expect(done['parties']).to.include('ottilie.crane@fennelbottom.example')
      expect(done['pointers']).to.include('/data/handover')
    } finally {
      rmSync(folder, { recursive: true, force: true })
      await running.stop()
    }
  })
})
