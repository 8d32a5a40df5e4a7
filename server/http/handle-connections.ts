import { conflictsOf, settleConflict } from '#server/services/connections/conflicts.ts'
import * as connections from '#server/services/connections/connections.ts'
import { findKinds, tryConnection } from '#server/services/connections/finding.ts'
import { heardFrom } from '#server/services/connections/hook.ts'
import { done, signedIn } from './handlers.ts'
import type { Handlers } from './handlers.ts'

export const connectionHandlers = {
  connections: async ({ app, ...call }) => connections.listConnections(app, signedIn(call)),
  makeConnection: async ({ app, body, ...call }) => connections.makeConnection(app, signedIn(call), body),
  saveConnection: async ({ app, params, body, ...call }) =>
    connections.saveConnection(app, signedIn(call), params.id, body),
  endConnection: async ({ app, params, ...call }) => {
    await connections.endConnection(app, signedIn(call), params.id)
    return done
  },
  tryConnection: async ({ app, params, ...call }) => tryConnection(app, signedIn(call), params.id),
  findKinds: async ({ app, params, body, ...call }) => findKinds(app, signedIn(call), params.id, body.path),
  pullNow: async ({ app, params, ...call }) => {
    await connections.pullNow(app, signedIn(call), params.id)
    return done
  },
  conflicts: async ({ app, params, ...call }) => conflictsOf(app, signedIn(call), params.id),
  settleConflict: async ({ app, params, body, ...call }) => {
    await settleConflict(app, signedIn(call), params.id, body)
    return done
  },
  connectionHook: async ({ app, params, request }) => {
    await heardFrom(
      app,
      params.id,
      request.headers,
      Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0),
    )
    return done
  },
} satisfies Partial<Handlers>
