import { execFile, spawn, spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Validator } from '@seriousme/openapi-schema-validator'
import { expect } from 'chai'
import openapiTS, { astToString } from 'openapi-typescript'
import { roomFile } from '#server/ground/room.ts'
import { openApi } from '#server/http/openapi.ts'
import { SCOPES } from '#contract/scope.ts'
import { Client, eventually } from '#test/support/client.ts'
import { connected, followSale } from '#test/support/connected.ts'
import { startApp } from '#test/support/running.ts'
import { fillAll, linkIn } from '#test/support/signing.ts'
import { CustomerSystem } from '../../demo/customer-system/system.ts'

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

/**
 * Another program: it asks a person to answer an intake form, waits for what becomes of the answer, and finds the invoice that
 * followed. What it has to be told to be answered is told by its first line.
 */
const ASKING = `
import createClient from 'openapi-fetch'
import type { paths } from './v1.ts'

const [url = '', key = ''] = process.argv.slice(2)
const client = createClient<paths>({ baseUrl: url + '/api', headers: { authorization: 'Bearer ' + key } })
const until = async <T,>(ask: () => Promise<T | undefined | false | null>): Promise<T> => {
  for (;;) {
    const found = await ask()
    if (found) return found
    await new Promise((resolve) => setTimeout(resolve, 200))
  }
}

const form = (await client.GET('/v1/forms')).data?.[0]
if (!form) throw new Error('no form')
const { data: needs } = await client.GET('/v1/forms/{id}', { params: { path: { id: form.id } } })
const asked = await client.POST('/v1/forms/{id}/invitations', {
  params: { path: { id: form.id }, header: { 'Idempotency-Key': 'asking-1' } },
  body: {
    name: 'Ada Moss', email: 'ada.moss@quincebank.example', language: 'fr', days: 7,
    data: {
      buyer: { name: 'Quince Bank', contact: 'Ada Moss', email: 'ada.moss@quincebank.example', address: '1 Low Road' },
      handover: '2027-05-10', payment: 'in advance',
      lots: [{ kind: 'Queen', grade: 'B', quantity: 3, price: 42 }],
    },
  },
})
if (!asked.data) throw new Error(JSON.stringify(asked.error))
const id = asked.data.id
console.log(asked.data.url)
const answer = await until(async () => {
  const { data } = await client.GET('/v1/answers/{id}', { params: { path: { id } } })
  return data?.state === 'made' && data
})
const agreement = answer.agreements[0] ?? ''
const executed = await until(async () => {
  const { data } = await client.GET('/v1/agreements/{id}', { params: { path: { id: agreement } } })
  return data?.state === 'executed' && data
})
const bill = await until(async () => {
  const { data } = await client.GET('/v1/agreements', { params: { query: { record: answer.record ?? '' } } })
  return data?.agreements.find(({ number, state }) => number.startsWith('INV-') && state === 'delivered')
})
const trail = await until(async () => {
  const { data } = await client.GET('/v1/agreements/{id}/trail', { params: { path: { id: agreement } } })
  return (data?.entries.filter(({ act }) => act === 'followed').length ?? 0) > 1 && data
})
const records = await client.GET('/v1/records/{kind}', { params: { path: { kind: 'customer' }, query: { name: 'Quince Bank' } } })
console.log(JSON.stringify({
  needs: Object.keys((needs?.schema['properties'] ?? {}) as object),
  status: asked.response.status,
  executed: executed.executed,
  bill: bill.number,
  verified: trail.verified,
  record: records.data?.records.some((each) => each.id === answer.record),
}))
`

/** Writes the types of the description and a program that stands on them, and has the compiler look at it. */
async function compiled(url: string, folder: string, program: string): Promise<void> {
  const described = (await (await fetch(`${url}/api/v1/openapi.json`)).json()) as object
  writeFileSync(join(folder, 'v1.ts'), astToString(await openapiTS(JSON.stringify(described))))
  writeFileSync(join(folder, 'program.mts'), program)
  const flags = [
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
  ]
  const { status, stdout } = spawnSync(
    roomFile('node_modules/.bin/tsc'),
    [...flags, join(folder, 'program.mts')],
    {
      cwd: folder,
      encoding: 'utf8',
    },
  )
  expect(status === 0 ? '' : stdout).to.equal('')
}

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
      await compiled(running.url, folder, PROGRAM)
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

  it('drives a form, its answer, the signed agreement, the invoice and the customer system by such types', async function () {
    this.timeout(180_000)
    const running = await startApp('outside_asking', { sheet: false, worker: true })
    const folder = mkdtempSync(roomFile('node_modules/.programs-'))
    const system = new CustomerSystem()
    try {
      Object.assign(running.app.settings, { inner: ['127.0.0.1'] })
      const ines = await Client.signedIn(running.url, 'ines.hallow')
      system.add('Quince Bank', [])
      await connected(running, ines, await system.start())
      await followSale(ines)
      const sale = (await ines.call('templates')).find(({ name }) => name === 'Colony sale')!.id
      const { id } = await ines.call('makeIntake', { body: { templates: [sale] } })
      const { content, version } = await ines.call('intake', { params: { id } })
      await ines.call('saveIntake', {
        params: { id },
        body: { content: { ...content, afterwards: 'sign' }, version },
      })
      const { secret } = await ines.call('makeKey', { body: { name: 'Asking', scopes: SCOPES, days: 1 } })
      await compiled(running.url, folder, ASKING)
      const program = spawn(
        process.execPath,
        ['--import', 'tsx', join(folder, 'program.mts'), running.url, secret],
        {
          cwd: roomFile('.'),
        },
      )
      let said = ''
      let wrong = ''
      program.stdout.on('data', (part: Buffer) => (said += part.toString()))
      program.stderr.on('data', (part: Buffer) => (wrong += part.toString()))
      const ended = new Promise<void>((resolve) => program.once('exit', () => resolve()))
      const url = await eventually(() => Promise.resolve(/\/form\/([\w-]{43})/.exec(said)?.[1]), 'the link')
      // Whoever was asked answers and signs in one sitting; then we do.
      const outsider = new Client(running.url)
      const { answer } = await outsider.call('form', { params: { token: url } })
      await outsider.call('handInAnswers', {
        params: { token: url },
        body: { answers: answer!.answers, language: 'fr' },
      })
      await eventually(
        async () => (await outsider.call('form', { params: { token: url } })).after?.next === 'sign',
        'the document',
      )
      const theirs = (await outsider.call('signAnswer', { params: { token: url }, body: { document: 0 } }))
        .url
      const links = [
        [/\/sign\/([\w-]{43})/.exec(theirs)![1]!, 'Ada Moss'],
        [null, 'Ines Hallow'],
      ] as const
      for (const [own, name] of links) {
        const token = own ?? (await linkIn(ines, 'ines.hallow@larkmere.example', /^Sale of/))
        await outsider.call('consent', { params: { token } })
        await fillAll(outsider, token, name)
        await outsider.call('finishSigning', { params: { token } })
      }
      await ended
      expect(wrong).to.equal('')
      const done = JSON.parse(said.trim().split('\n').at(-1)!) as Record<string, unknown>
      expect(done).to.deep.include({
        status: 202,
        executed: true,
        bill: 'INV-0001',
        verified: true,
        record: true,
      })
      expect(done['needs']).to.include.members(['buyer', 'lots'])
      expect(system.growers[0]!.agreement.status).to.equal('executed')
      expect([...system.files.keys()][0]).to.match(/^growers\/g-1\/LP-\d+\.pdf$/)
    } finally {
      rmSync(folder, { recursive: true, force: true })
      await system.stop()
      await running.stop()
    }
  })
})
