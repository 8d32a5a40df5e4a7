import * as v from 'valibot'
import { id, idParams, shortText } from './basics.ts'
import * as o from './one-off.ts'
import { NOTHING, route } from './route.ts'
import { draftSave, draftSaved } from './template.ts'

/** One agreement of a file, without a template. */
export const oneOffRoutes = {
  startOneOff: route({
    method: 'POST',
    path: '/one-offs',
    summary: 'Begin one agreement of files that were brought in, for a record or for none',
    access: { right: 'runs' },
    renews: ['oneOffs'],
    body: o.oneOffStart,
    answer: v.object({ id }),
  }),
  oneOffs: route({
    method: 'GET',
    path: '/one-offs',
    summary: 'Agreements of files that were begun and are not made yet, the last changed first; at most 100',
    access: { right: 'runs' },
    query: v.object({ record: v.optional(id) }),
    answer: v.array(o.begunSchema),
  }),
  dropOneOff: route({
    method: 'DELETE',
    path: '/one-offs/:id',
    summary: 'Give up one that was begun; one that is made stays',
    access: { right: 'runs' },
    renews: ['oneOffs'],
    params: idParams,
    answer: NOTHING,
  }),
  oneOff: route({
    method: 'GET',
    path: '/one-offs/:id',
    summary: 'One agreement of a file, before it is made',
    access: { right: 'runs' },
    params: idParams,
    answer: o.oneOffSchema,
  }),
  saveOneOff: route({
    method: 'PUT',
    path: '/one-offs/:id/draft',
    summary: 'Save it; refused where somebody saved since, or where it is made',
    access: { right: 'runs' },
    renews: ['oneOff', 'oneOffs'],
    params: idParams,
    body: draftSave,
    answer: draftSaved,
  }),
  makeOneOff: route({
    method: 'POST',
    path: '/one-offs/:id/agreement',
    summary: 'Make the agreement; asked again it is the one that was made',
    access: { right: 'runs' },
    renews: 'everything',
    params: idParams,
    body: v.object({ version: v.number() }),
    answer: v.object({ id }),
  }),
  keepOneOff: route({
    method: 'POST',
    path: '/one-offs/:id/template',
    summary: 'Keep it as a template: its people become roles that are asked for',
    access: { right: 'templates' },
    renews: ['templates', 'shelves'],
    params: idParams,
    body: v.object({ title: shortText, shelf: v.nullable(id) }),
    answer: v.object({ id }),
  }),
}
