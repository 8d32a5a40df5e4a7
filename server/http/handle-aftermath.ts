import { followUpDone, followUpsOf } from '#server/services/aftermath/follow-ups.ts'
import { dropFolder, listFolders, makeFolder } from '#server/services/aftermath/folders.ts'
import { readList, saveList } from '#server/services/aftermath/lists.ts'
import { failedSteps, settleStep, stepsOf } from '#server/services/aftermath/told.ts'
import { done, signedIn } from './handlers.ts'
import type { Handlers } from './handlers.ts'

export const aftermathHandlers = {
  aftermath: async ({ app, params, ...call }) => readList(app, signedIn(call), params),
  saveAftermath: async ({ app, params, body, ...call }) => saveList(app, signedIn(call), params, body),
  agreementAftermath: async ({ app, params }) => stepsOf(app, params.id),
  failedSteps: async ({ app, ...call }) => failedSteps(app, signedIn(call)),
  settleStep: async ({ app, params, body, ...call }) => {
    await settleStep(app, signedIn(call), params.id, body.what)
    return done
  },
  followUps: async ({ app, ...call }) => followUpsOf(app, signedIn(call)),
  followUpDone: async ({ app, params, ...call }) => {
    await followUpDone(app, signedIn(call), params.id)
    return done
  },
  folders: async ({ app, ...call }) => listFolders(app, signedIn(call)),
  makeFolder: async ({ app, body, ...call }) => makeFolder(app, signedIn(call), body),
  dropFolder: async ({ app, params, ...call }) => {
    await dropFolder(app, signedIn(call), params.id)
    return done
  },
} satisfies Partial<Handlers>
