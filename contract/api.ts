import * as v from 'valibot'
import * as a from './agreement.ts'
import { done, id, idParams, pageQuery, wholeNumber } from './basics.ts'
import * as p from './person.ts'
import { route } from './route.ts'
import * as r from './run.ts'
import * as s from './sheet.ts'
import { templateRoutes as templates } from './template-routes.ts'

const stepParams = v.object({ id, step: id })
const runRowParams = v.object({ id, row: wholeNumber })
const mappingParams = v.object({ id, template: id })
const mailParams = v.object({ id: wholeNumber })
const uploadQuery = v.object({ name: v.pipe(v.string(), v.minLength(1), v.maxLength(200)) })

const people = {
  session: route({
    method: 'GET',
    path: '/session',
    summary: 'Who is signed in',
    access: 'anyone',
    answer: p.sessionSchema,
  }),
  signIn: route({
    method: 'POST',
    path: '/session',
    summary: 'Sign in',
    access: 'anyone',
    body: p.signInSchema,
    answer: p.sessionSchema,
  }),
  signOut: route({ method: 'DELETE', path: '/session', summary: 'Sign out', access: 'anyone', answer: done }),
  demoPeople: route({
    method: 'GET',
    path: '/demo-people',
    summary: 'The demo’s people; empty outside the demo',
    access: 'anyone',
    answer: v.array(p.demoPersonSchema),
  }),
  demoSignIn: route({
    method: 'POST',
    path: '/demo-session',
    summary: 'Sign in as one of the demo’s people',
    access: 'anyone',
    body: v.object({ email: v.string() }),
    answer: p.sessionSchema,
  }),
  health: route({
    method: 'GET',
    path: '/health',
    summary: 'Whether the server and its database answer',
    access: 'anyone',
    answer: v.object({ status: v.literal('ok') }),
  }),
}

const sheets = {
  sheets: route({
    method: 'GET',
    path: '/sheets',
    summary: 'All sheets; for a template, those first that feed most of its fields',
    access: 'person',
    query: v.object({ template: v.optional(id) }),
    answer: v.array(s.sheetSummarySchema),
  }),
  uploadSheet: route({
    method: 'POST',
    path: '/sheets',
    summary: 'Upload a CSV or XLSX file',
    access: { right: 'runs' },
    query: uploadQuery,
    upload: true,
    answer: s.sheetSchema,
  }),
  sheet: route({
    method: 'GET',
    path: '/sheets/:id',
    summary: 'A sheet and its columns',
    access: 'person',
    params: idParams,
    answer: s.sheetSchema,
  }),
  sheetRows: route({
    method: 'GET',
    path: '/sheets/:id/rows',
    summary: 'Rows of a sheet as text, all or those with a text in them',
    access: 'person',
    params: idParams,
    query: v.object({
      ...pageQuery.entries,
      search: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(100))),
    }),
    answer: s.sheetRowsSchema,
  }),
  mapping: route({
    method: 'GET',
    path: '/sheets/:id/mappings/:template',
    summary: 'Which column feeds which field, and what that gives',
    access: 'person',
    params: mappingParams,
    answer: s.mappingSchema,
  }),
  saveMapping: route({
    method: 'PUT',
    path: '/sheets/:id/mappings/:template',
    summary: 'Save a mapping',
    access: { right: 'runs' },
    params: mappingParams,
    body: s.mappingChange,
    answer: s.mappingSchema,
  }),
}

const runs = {
  runs: route({
    method: 'GET',
    path: '/runs',
    summary: 'All runs',
    access: 'person',
    answer: v.array(r.runSummarySchema),
  }),
  startRun: route({
    method: 'POST',
    path: '/runs',
    summary: 'Set up a run; its rows are checked at once',
    access: { right: 'runs' },
    body: r.runStart,
    answer: v.object({ id }),
  }),
  run: route({
    method: 'GET',
    path: '/runs/:id',
    summary: 'A run',
    access: 'person',
    params: idParams,
    answer: r.runSummarySchema,
  }),
  runRows: route({
    method: 'GET',
    path: '/runs/:id/rows',
    summary: 'The rows of a run with what their check found',
    access: 'person',
    params: idParams,
    answer: v.array(r.runRowSchema),
  }),
  wordings: route({
    method: 'GET',
    path: '/runs/:id/wordings',
    summary: 'Rows grouped by the wording they get',
    access: 'person',
    params: idParams,
    answer: v.array(r.wordingSchema),
  }),
  rowProof: route({
    method: 'GET',
    path: '/runs/:id/rows/:row/proof',
    summary: 'The finished pages of one row',
    access: 'person',
    params: runRowParams,
    answer: 'application/pdf',
  }),
  generate: route({
    method: 'POST',
    path: '/runs/:id/generate',
    summary: 'Make the agreements of all rows that are ready',
    access: { right: 'runs' },
    params: idParams,
    answer: done,
  }),
  pauseRun: route({
    method: 'POST',
    path: '/runs/:id/pause',
    summary: 'Stop making more for now',
    access: { right: 'runs' },
    params: idParams,
    answer: done,
  }),
  runEvents: route({
    method: 'GET',
    path: '/runs/:id/events',
    summary: 'Progress as server-sent events',
    access: 'person',
    params: idParams,
    answer: 'text/event-stream',
  }),
  runArchive: route({
    method: 'GET',
    path: '/runs/:id/archive',
    summary: 'A ZIP of all documents made',
    access: 'person',
    params: idParams,
    answer: 'application/zip',
  }),
}

const agreements = {
  desk: route({
    method: 'GET',
    path: '/desk',
    summary: 'What waits for the person signed in',
    access: 'person',
    answer: a.deskSchema,
  }),
  agreements: route({
    method: 'GET',
    path: '/agreements',
    summary: 'The register',
    access: 'person',
    query: a.agreementQuery,
    answer: a.agreementListSchema,
  }),
  agreement: route({
    method: 'GET',
    path: '/agreements/:id',
    summary: 'An agreement',
    access: 'person',
    params: idParams,
    answer: a.agreementSchema,
  }),
  agreementDocx: route({
    method: 'GET',
    path: '/agreements/:id/docx',
    summary: 'The agreement’s wording as a DOCX document',
    access: 'person',
    params: idParams,
    answer: 'application/vnd.openxmlformats-officedocument.wordprocessingml.document',
  }),
  agreementDocument: route({
    method: 'GET',
    path: '/agreements/:id/document',
    summary: 'The document as it stands; sealed once executed',
    access: 'person',
    params: idParams,
    answer: 'application/pdf',
  }),
  trail: route({
    method: 'GET',
    path: '/agreements/:id/trail',
    summary: 'Everything that happened, and whether the chain holds',
    access: 'person',
    params: idParams,
    answer: a.trailSchema,
  }),
  decide: route({
    method: 'POST',
    path: '/agreements/:id/steps/:step',
    summary: 'Approve or return',
    access: { right: 'approve' },
    params: stepParams,
    body: a.decisionSchema,
    answer: done,
  }),
  routeAgain: route({
    method: 'POST',
    path: '/agreements/:id/route',
    summary: 'Put a returned agreement to approval again',
    access: { right: 'runs' },
    params: idParams,
    answer: done,
  }),
  sendAgreements: route({
    method: 'POST',
    path: '/agreements/send',
    summary: 'Send cleared agreements for signature',
    access: { right: 'send' },
    body: a.sendMany,
    answer: a.sentMany,
  }),
  withdraw: route({
    method: 'POST',
    path: '/agreements/:id/withdraw',
    summary: 'End an agreement',
    access: { right: 'send' },
    params: idParams,
    answer: done,
  }),
  rules: route({
    method: 'GET',
    path: '/rules',
    summary: 'Rule tables',
    access: 'person',
    answer: v.array(p.ruleTableSchema),
  }),
  saveRules: route({
    method: 'PUT',
    path: '/rules/:id',
    summary: 'Change a rule table',
    access: { right: 'rules' },
    params: idParams,
    body: p.ruleTableChange,
    answer: p.ruleTableSchema,
  }),
}

const postRoom = {
  receivedMails: route({
    method: 'GET',
    path: '/post-room',
    summary: 'Mails received by the stand-in, newest first',
    access: { right: 'post room' },
    query: v.object({ search: v.optional(v.string()) }),
    answer: v.array(p.receivedMailSchema),
  }),
  receivedMail: route({
    method: 'GET',
    path: '/post-room/:id',
    summary: 'A mail as received',
    access: { right: 'post room' },
    params: mailParams,
    answer: p.receivedMailDetailSchema,
  }),
  receivedAttachment: route({
    method: 'GET',
    path: '/post-room/:id/attachments/:index',
    summary: 'A file that came with a mail',
    access: { right: 'post room' },
    params: v.object({ id: wholeNumber, index: wholeNumber }),
    answer: 'application/octet-stream',
  }),
}

const signing = {
  signing: route({
    method: 'GET',
    path: '/signing/:token',
    summary: 'What the bearer of a link has to sign',
    access: 'signing link',
    params: a.tokenParams,
    answer: a.signingSchema,
  }),
  signingDocument: route({
    method: 'GET',
    path: '/signing/:token/document',
    summary: 'The document as it stands',
    access: 'signing link',
    params: a.tokenParams,
    answer: 'application/pdf',
  }),
  consent: route({
    method: 'POST',
    path: '/signing/:token/consent',
    summary: 'Agree to sign electronically',
    access: 'signing link',
    params: a.tokenParams,
    answer: done,
  }),
  fillBlanks: route({
    method: 'PUT',
    path: '/signing/:token/blanks',
    summary: 'Fill or empty blanks',
    access: 'signing link',
    params: a.tokenParams,
    body: a.blankFill,
    answer: done,
  }),
  signingFile: route({
    method: 'POST',
    path: '/signing/:token/files',
    summary: 'A file that a signer hands in',
    access: 'signing link',
    params: a.tokenParams,
    query: uploadQuery,
    upload: true,
    answer: v.object({ name: v.string(), sha256: v.string(), size: v.number() }),
  }),
  finishSigning: route({
    method: 'POST',
    path: '/signing/:token/finish',
    summary: 'Sign',
    access: 'signing link',
    params: a.tokenParams,
    answer: a.finishedSchema,
  }),
  decline: route({
    method: 'POST',
    path: '/signing/:token/decline',
    summary: 'Refuse to sign',
    access: 'signing link',
    params: a.tokenParams,
    body: a.declineSchema,
    answer: done,
  }),
}

/** Every route of the application. */
export const api = { ...people, ...templates, ...sheets, ...runs, ...agreements, ...postRoom, ...signing }
export type Api = typeof api
export type RouteName = keyof Api
