import * as v from 'valibot'
import { done, id, idParams, wholeNumber } from './basics.ts'
import * as p from './program.ts'
import { route } from './route.ts'
import { trailSchema } from './agreement.ts'

/** Keys of programs, as the people who give them out see them. */
export const keyRoutes = {
  keys: route({
    method: 'GET',
    path: '/keys',
    summary: 'Keys that programs call with, the newest first',
    access: { right: 'settings' },
    answer: v.array(p.keySchema),
  }),
  makeKey: route({
    method: 'POST',
    path: '/keys',
    summary: 'Make a key for a program; its secret is told once',
    access: { right: 'settings' },
    renews: ['keys'],
    body: p.keyWish,
    answer: p.newKeySchema,
  }),
  rotateKey: route({
    method: 'POST',
    path: '/keys/:id/secret',
    summary: 'Give a key another secret; the one before counts as many hours more',
    access: { right: 'settings' },
    renews: ['keys'],
    params: idParams,
    body: v.object({ hours: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(720)) }),
    answer: p.newKeySchema,
  }),
  revokeKey: route({
    method: 'DELETE',
    path: '/keys/:id',
    summary: 'Take a key back: nothing is answered to it from then on',
    access: { right: 'settings' },
    renews: ['keys'],
    params: idParams,
    answer: done,
  }),
}

/** Programs that are told of what happens. */
export const webhookRoutes = {
  webhooks: route({
    method: 'GET',
    path: '/webhooks',
    summary: 'Programs that are told of what happens to agreements',
    access: { right: 'settings' },
    answer: v.array(p.webhookSchema),
  }),
  makeWebhook: route({
    method: 'POST',
    path: '/webhooks',
    summary: 'Have a program told; what it is signed with is told once',
    access: { right: 'settings' },
    renews: ['webhooks'],
    body: p.webhookWish,
    answer: p.newKeySchema,
  }),
  dropWebhook: route({
    method: 'DELETE',
    path: '/webhooks/:id',
    summary: 'Tell a program nothing more',
    access: { right: 'settings' },
    renews: ['webhooks', 'deliveries'],
    params: idParams,
    answer: done,
  }),
  deliveries: route({
    method: 'GET',
    path: '/webhooks/:id/deliveries',
    summary: 'What a program was told and what waits, the newest act first; at most 200',
    access: { right: 'settings' },
    params: idParams,
    answer: v.array(p.deliverySchema),
  }),
  tellAgain: route({
    method: 'POST',
    path: '/webhooks/:id/deliveries/:delivery',
    summary: 'Tell a program once more of one act, under the same id',
    access: { right: 'settings' },
    renews: ['deliveries', 'webhooks'],
    params: v.object({ id, delivery: wholeNumber }),
    answer: done,
  }),
}

const A = '5f0c6f1e-7d5c-4b57-9a39-0d6a3f8d2c11'
const B = '9c1f1c52-0c36-4c0b-8f1c-2f6b8a5f7d20'
const made = { id: B, state: 'taken', at: `/api/v1/starts/${B}`, agreement: null, problems: [] } as const

/** What programs call, below /api/v1. What is said here stays: see `docs/programs.md`. */
export const programRoutes = {
  programTemplates: route({
    method: 'GET',
    path: '/v1/templates',
    summary: 'Templates with an edition that agreements can be started of',
    access: { scope: 'read templates' },
    answer: v.array(p.programTemplateSchema),
    example: { answer: [{ id: A, name: 'Service agreement', edition: 3 }] },
  }),
  programTemplate: route({
    method: 'GET',
    path: '/v1/templates/:id',
    summary: 'A template with the JSON Schema of the data it needs',
    access: { scope: 'read templates' },
    params: idParams,
    answer: p.programTemplateDetail,
  }),
  programStart: route({
    method: 'POST',
    path: '/v1/agreements',
    summary: 'Start an agreement; answered as soon as it is checked and taken, made right after',
    access: { scope: 'start agreements' },
    status: 202,
    idempotent: true,
    renews: 'everything',
    body: p.startWish,
    answer: p.startSchema,
    example: {
      body: {
        template: A,
        data: { buyer: { name: 'A buyer' }, lines: [{ item: 'Item', quantity: 2, price: '19.90' }] },
      },
      answer: made,
    },
  }),
  programStarts: route({
    method: 'POST',
    path: '/v1/agreements/bulk',
    summary: 'Start several agreements; each row is taken or refused by itself',
    access: { scope: 'start agreements' },
    status: 202,
    idempotent: true,
    renews: 'everything',
    body: p.startsWish,
    answer: v.array(p.startRowSchema),
  }),
  programStarted: route({
    method: 'GET',
    path: '/v1/starts/:id',
    summary: 'What has become of something that was started',
    access: { scope: 'start agreements' },
    params: idParams,
    answer: p.startSchema,
    example: { answer: { ...made, state: 'made', agreement: A } },
  }),
  programAgreements: route({
    method: 'GET',
    path: '/v1/agreements',
    summary: 'Agreements by when they changed, the oldest change first, a page at a time',
    access: { scope: 'read agreements' },
    query: p.programAgreementsQuery,
    answer: p.programAgreementsSchema,
  }),
  programAgreement: route({
    method: 'GET',
    path: '/v1/agreements/:id',
    summary: 'One agreement with its parties and approvals',
    access: { scope: 'read agreements' },
    params: idParams,
    answer: p.programAgreementDetail,
  }),
  programTrail: route({
    method: 'GET',
    path: '/v1/agreements/:id/trail',
    summary: 'All that happened to an agreement, and whether its chain holds',
    access: { scope: 'read agreements' },
    params: idParams,
    answer: trailSchema,
  }),
  programDocument: route({
    method: 'GET',
    path: '/v1/agreements/:id/document',
    summary: 'The file as it stands: once it is executed, the sealed one',
    access: { scope: 'read agreements' },
    params: idParams,
    answer: 'application/pdf',
  }),
  programSend: route({
    method: 'POST',
    path: '/v1/agreements/:id/send',
    summary: 'Send an agreement that is ready; asked again nothing more happens',
    access: { scope: 'send agreements' },
    renews: 'everything',
    params: idParams,
    answer: v.object({ id, state: p.programAgreementSchema.entries.state }),
  }),
}
