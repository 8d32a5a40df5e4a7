import { conflictsOf, settleConflict } from '#server/services/connections/conflicts.ts'
import * as connections from '#server/services/connections/connections.ts'
import { findKinds, tryConnection } from '#server/services/connections/finding.ts'
import { heardFrom } from '#server/services/connections/hook.ts'
import { done, signedIn } from './handlers.ts'
import type { Handlers } from './handlers.ts'

export const connectionHandlers = {
  connections: async ({ app }) => connections.listConnections(app),
  makeConnection: async ({ app, body, ...call }) => connections.makeConnection(app, signedIn(call), body),
  saveConnection: async ({ app, params, body }) => connections.saveConnection(app, params.id, body),
  endConnection: async ({ app, params }) => {
    await connections.endConnection(app, params.id)
    return done
  },
  tryConnection: async ({ app, params }) => tryConnection(app, params.id),
  findKinds: async ({ app, params, body }) => findKinds(app, params.id, body.path),
  pullNow: async ({ app, params }) => {
    await connections.pullNow(app, params.id)
    return done
  },
  conflicts: async ({ app, params }) => conflictsOf(app, params.id),
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
