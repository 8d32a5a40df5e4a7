import { randomUUID } from 'node:crypto'
import { pullConnections } from '#server/services/connections/pulling.ts'
import { type Client, eventually } from './client.ts'
import type { Running } from './running.ts'
import { CLIENT } from '../../demo/customer-system/system.ts'

/** Connects the stand-in customer system, its growers as customers, and reads it once. */
export async function connected(running: Running, by: Client, address: string): Promise<string> {
  const entries = {
    name: 'Growers',
    address,
    description: '/openapi.json',
    auth: {
      kind: 'client',
      tokenUrl: `${address}/oauth/token`,
      client: CLIENT.client,
      secret: CLIENT.secret,
      scope: '',
    },
    everyMinutes: null,
  }
  const { id } = await by.call('makeConnection', { body: { ...entries, kinds: [] } })
  const { kinds } = await by.call('findKinds', { params: { id }, body: { path: null } })
  const growers = kinds
    .filter(({ name }) => name === 'growers')
    .map((kind) => ({ ...kind, into: 'customer' }))
  await by.call('saveConnection', { params: { id }, body: { ...entries, kinds: growers, version: 1 } })
  await by.call('pullNow', { params: { id } })
  await pullConnections(running.app)
  await eventually(async () => (await by.call('connections'))[0]?.records, 'its records')
  return id
}

/** What follows a colony sale: its invoice, and what the customer system is told. */
export async function followSale(by: Client): Promise<void> {
  const templates = await by.call('templates')
  const idOf = (name: string) => templates.find((each) => each.name === name)!.id
  const common = {
    on: 'executed',
    when: '',
    delay: { count: 0, unit: 'days' },
    tell: (await by.call('session')).person!.id,
  }
  await by.call('saveAftermath', {
    params: { kind: 'template', id: idOf('Colony sale') },
    body: {
      version: 0,
      steps: [
        {
          ...common,
          id: randomUUID(),
          kind: 'next document',
          template: idOf('Colony sale invoice'),
          send: true,
          bill: {
            name: 'buyer.name',
            address: 'buyer.address',
            due: 'due',
            sellerCountry: 'US',
            buyerCountry: 'US',
          },
        },
        {
          ...common,
          id: randomUUID(),
          kind: 'tell the customer system',
          status: 'executed',
          link: true,
          file: true,
        },
      ],
    },
  })
}
