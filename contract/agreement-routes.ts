import * as v from 'valibot'
import * as a from './agreement.ts'
import { done, id, idParams, uploadQuery, wholeNumber } from './basics.ts'
import { route } from './route.ts'

const stepParams = v.object({ id, step: id })
const handedInParams = v.object({ id, party: id, blank: v.pipe(v.string(), v.maxLength(120)) })
const partParams = v.object({ id, part: wholeNumber })
const partQuery = v.object({ part: v.optional(wholeNumber, '1') })

/** What anything that happens to an agreement may change. */
const AGREEMENT = ['agreement', 'agreements', 'agreementWording', 'desk', 'trail'] as const

/** The desk, agreements with their approvals, and the rules that ask for them. */
export const agreementRoutes = {
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
  agreementWording: route({
    method: 'GET',
    path: '/agreements/:id/wording',
    summary: 'Its wording beside that of its template',
    access: 'person',
    params: idParams,
    answer: a.ownWording,
  }),
  saveWording: route({
    method: 'PUT',
    path: '/agreements/:id/wording',
    summary: 'Change the wording for this one customer: its next revision, approved anew',
    access: { right: 'runs' },
    renews: AGREEMENT,
    params: idParams,
    body: a.wordingChange,
    answer: done,
  }),
  agreementDocx: route({
    method: 'GET',
    path: '/agreements/:id/docx',
    summary: 'The agreement’s wording as a DOCX document; of a packet, one of them',
    access: 'person',
    params: idParams,
    query: partQuery,
    answer: 'application/vnd.openxmlformats-officedocument.wordprocessingml.document',
  }),
  singleDocument: route({
    method: 'GET',
    path: '/agreements/:id/documents/:part',
    summary: 'One document of a packet as a file of its own, unsealed',
    access: 'person',
    params: partParams,
    answer: 'application/pdf',
  }),
  agreementDocument: route({
    method: 'GET',
    path: '/agreements/:id/document',
    summary: 'The document as it stands; sealed once executed',
    access: 'person',
    params: idParams,
    answer: 'application/pdf',
  }),
  handedIn: route({
    method: 'GET',
    path: '/agreements/:id/parties/:party/blanks/:blank/file',
    summary: 'A file that a signer handed in',
    access: 'person',
    params: handedInParams,
    answer: 'application/octet-stream',
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
    renews: AGREEMENT,
    params: stepParams,
    body: a.decisionSchema,
    answer: done,
  }),
  routeAgain: route({
    method: 'POST',
    path: '/agreements/:id/route',
    summary: 'Put a returned agreement to approval again',
    access: { right: 'runs' },
    renews: AGREEMENT,
    params: idParams,
    answer: done,
  }),
  sendAgreements: route({
    method: 'POST',
    path: '/agreements/send',
    summary: 'Send cleared agreements for signature',
    access: { right: 'send' },
    renews: AGREEMENT,
    body: a.sendMany,
    answer: a.sentMany,
  }),
  withdraw: route({
    method: 'POST',
    path: '/agreements/:id/withdraw',
    summary: 'End an agreement',
    access: { right: 'send' },
    renews: AGREEMENT,
    params: idParams,
    answer: done,
  }),
}

/** What the bearer of a signing link may do. */
export const signingRoutes = {
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
    renews: ['signing'],
    params: a.tokenParams,
    answer: done,
  }),
  fillBlanks: route({
    method: 'PUT',
    path: '/signing/:token/blanks',
    summary: 'Fill or empty blanks',
    access: 'signing link',
    renews: ['signing'],
    params: a.tokenParams,
    body: a.blankFill,
    answer: done,
  }),
  signingFile: route({
    method: 'POST',
    path: '/signing/:token/files',
    summary: 'A file that a signer hands in',
    access: 'signing link',
    renews: ['signing'],
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
    renews: ['signing'],
    params: a.tokenParams,
    answer: a.finishedSchema,
  }),
  decline: route({
    method: 'POST',
    path: '/signing/:token/decline',
    summary: 'Refuse to sign',
    access: 'signing link',
    renews: ['signing'],
    params: a.tokenParams,
    body: a.declineSchema,
    answer: done,
  }),
}
