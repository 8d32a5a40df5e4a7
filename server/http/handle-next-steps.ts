import { followUpDone, followUpsOf } from '#server/services/next-steps/follow-ups.ts'
import { dropFolder, listFolders, makeFolder } from '#server/services/next-steps/folders.ts'
import { readList, saveList } from '#server/services/next-steps/lists.ts'
import { failedSteps, settleStep, stepsOf } from '#server/services/next-steps/told.ts'
import type { Handlers } from './handlers.ts'

export const aftermathHandlers = {
  aftermath: async ({ app, person, params }) => readList(app, person, params),
  saveAftermath: async ({ app, person, params, body }) => saveList(app, person, params, body),
  agreementAftermath: async ({ app, params }) => stepsOf(app, params.id),
  failedSteps: async ({ app, person }) => failedSteps(app, person),
  settleStep: async ({ app, person, params, body }) => settleStep(app, person, params.id, body.what),
  followUps: async ({ app, person }) => followUpsOf(app, person),
  followUpDone: async ({ app, person, params }) => followUpDone(app, person, params.id),
  folders: async ({ app, person }) => listFolders(app, person),
  makeFolder: async ({ app, person, body }) => makeFolder(app, person, body),
  dropFolder: async ({ app, person, params }) => dropFolder(app, person, params.id),
} satisfies Partial<Handlers>
