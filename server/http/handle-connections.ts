import { conflictsOf, settleConflict } from '#server/services/connections/conflicts.ts'
import * as connections from '#server/services/connections/connections.ts'
import { findKinds, tryConnection } from '#server/services/connections/finding.ts'
import { heardFrom } from '#server/services/connections/hook.ts'
import type { Handlers } from './handlers.ts'

export const connectionHandlers = {
  connections: async ({ app, person }) => connections.listConnections(app, person),
  makeConnection: async ({ app, person, body }) => connections.makeConnection(app, person, body),
  saveConnection: async ({ app, person, params, body }) =>
    connections.saveConnection(app, person, params.id, body),
  endConnection: async ({ app, person, params }) => connections.endConnection(app, person, params.id),
  tryConnection: async ({ app, person, params }) => tryConnection(app, person, params.id),
  findKinds: async ({ app, person, params, body }) => findKinds(app, person, params.id, body.path),
  pullNow: async ({ app, person, params }) => connections.pullNow(app, person, params.id),
  conflicts: async ({ app, person, params }) => conflictsOf(app, person, params.id),
  settleConflict: async ({ app, person, params, body }) => settleConflict(app, person, params.id, body),
  connectionHook: async ({ app, params, request }) => {
    await heardFrom(
      app,
      params.id,
      request.headers,
      Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0),
    )
  },
} satisfies Partial<Handlers>
