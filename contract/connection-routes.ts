import * as v from 'valibot'
import { id, idParams } from './basics.ts'
import * as c from './connection.ts'
import { NOTHING, route } from './route.ts'

const CONNECTIONS = ['connections', 'conflicts', 'records', 'record', 'troubles'] as const
const access = { right: 'settings' } as const

/** Customer systems that records come from and results go to. */
export const connectionRoutes = {
  connections: route({
    method: 'GET',
    path: '/connections',
    summary: 'Customer systems that are connected',
    access,
    answer: v.array(c.connectionSchema),
  }),
  makeConnection: route({
    method: 'POST',
    path: '/connections',
    summary: 'Connect a customer system; what its webhook is to be signed with is told once',
    access,
    renews: CONNECTIONS,
    body: c.connectionWish,
    answer: v.object({ id, secret: v.string() }),
  }),
  saveConnection: route({
    method: 'PUT',
    path: '/connections/:id',
    summary: 'Change a connection; refused where somebody changed it since',
    access,
    renews: CONNECTIONS,
    params: idParams,
    body: c.connectionChange,
    answer: v.object({ version: v.number() }),
  }),
  endConnection: route({
    method: 'DELETE',
    path: '/connections/:id',
    summary: 'End a connection; the records stay',
    access,
    renews: CONNECTIONS,
    params: idParams,
    answer: NOTHING,
  }),
  tryConnection: route({
    method: 'POST',
    path: '/connections/:id/try',
    summary: 'Try a connection step by step',
    access,
    renews: [],
    params: idParams,
    answer: c.triedSchema,
  }),
  findKinds: route({
    method: 'POST',
    path: '/connections/:id/find',
    summary: 'Find the kinds and fields that a customer system has, by its description or by a list of it',
    access,
    renews: [],
    params: idParams,
    body: v.object({ path: v.nullable(v.pipe(v.string(), v.regex(/^\/(?!\/)\S*$/), v.maxLength(500))) }),
    answer: c.foundKinds,
  }),
  pullNow: route({
    method: 'POST',
    path: '/connections/:id/pull',
    summary: 'Have a customer system be read now',
    access,
    renews: CONNECTIONS,
    params: idParams,
    answer: NOTHING,
  }),
  conflicts: route({
    method: 'GET',
    path: '/connections/:id/conflicts',
    summary: 'Records of a customer system that somebody has to say something to; at most 500',
    access,
    params: idParams,
    answer: v.array(c.conflictSchema),
  }),
  settleConflict: route({
    method: 'POST',
    path: '/connections/:id/conflicts',
    summary: 'Say which counts where both changed a record',
    access,
    renews: CONNECTIONS,
    params: idParams,
    body: v.object({ kind: v.string(), theirId: v.string(), take: v.boolean() }),
    answer: NOTHING,
  }),
  connectionHook: route({
    method: 'POST',
    path: '/connections/:id/hook',
    summary: 'A customer system says that something changed, signed as of Standard Webhooks',
    access: 'signing link',
    renews: ['connections'],
    params: idParams,
    upload: true,
    limit: 1_000_000,
    answer: NOTHING,
  }),
}
