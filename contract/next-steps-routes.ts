import * as v from 'valibot'
import * as a from './next-steps.ts'
import { id, idParams } from './basics.ts'
import { NOTHING, route } from './route.ts'

/** What follows agreements, where it goes, and what people have to do then. */
export const aftermathRoutes = {
  aftermath: route({
    method: 'GET',
    path: '/aftermath/:kind/:id',
    summary: 'What follows the agreements of a template or a packet',
    access: 'person',
    params: a.aftermathParams,
    answer: a.aftermathSchema,
  }),
  saveAftermath: route({
    method: 'PUT',
    path: '/aftermath/:kind/:id',
    summary: 'Change what follows; it holds for agreements whose moment comes from then on',
    access: { right: 'templates' },
    renews: ['aftermath'],
    params: a.aftermathParams,
    body: a.aftermathSave,
    answer: v.object({ version: v.number() }),
  }),
  agreementAftermath: route({
    method: 'GET',
    path: '/agreements/:id/aftermath',
    summary: 'What follows an agreement, and what came of it',
    access: 'person',
    params: idParams,
    answer: v.array(a.stepTold),
  }),
  failedSteps: route({
    method: 'GET',
    path: '/aftermath/failed',
    summary: 'Steps that failed and that one is told of',
    access: 'person',
    answer: v.array(a.stepTold),
  }),
  settleStep: route({
    method: 'POST',
    path: '/aftermath/steps/:id',
    summary: 'Try a step again, or let it be',
    access: { right: 'send' },
    renews: ['agreementAftermath', 'failedSteps'],
    params: idParams,
    body: v.object({ what: v.picklist(['again', 'leave']) }),
    answer: NOTHING,
  }),
  followUps: route({
    method: 'GET',
    path: '/follow-ups',
    summary: 'What one has to do after agreements, the earliest due first',
    access: 'person',
    answer: v.array(a.followUpSchema),
  }),
  followUpDone: route({
    method: 'DELETE',
    path: '/follow-ups/:id',
    summary: 'Say that something is done',
    access: 'person',
    renews: ['followUps'],
    params: idParams,
    answer: NOTHING,
  }),
  folders: route({
    method: 'GET',
    path: '/folders',
    summary: 'Places that documents are filed to',
    access: { right: 'settings' },
    answer: v.array(a.folderSchema),
  }),
  makeFolder: route({
    method: 'POST',
    path: '/folders',
    summary: 'Add a place to file to; it is tried first',
    access: { right: 'settings' },
    renews: ['folders', 'aftermath'],
    body: a.folderWish,
    answer: v.object({ id }),
  }),
  dropFolder: route({
    method: 'DELETE',
    path: '/folders/:id',
    summary: 'File nothing there any more; what is there stays',
    access: { right: 'settings' },
    renews: ['folders', 'aftermath'],
    params: idParams,
    answer: NOTHING,
  }),
}
