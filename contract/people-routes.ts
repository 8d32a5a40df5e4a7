import * as v from 'valibot'
import { pageQuery, wholeNumber } from './basics.ts'
import * as p from './person.ts'
import { NOTHING, route } from './route.ts'

const mailParams = v.object({ id: wholeNumber })

/** Who is signed in, and whether the application is well. */
export const peopleRoutes = {
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
    trail: 'none',
    renews: 'everything',
    body: p.signInSchema,
    answer: p.sessionSchema,
  }),
  signOut: route({
    method: 'DELETE',
    path: '/session',
    summary: 'Sign out',
    access: 'anyone',
    trail: 'none',
    renews: 'everything',
    answer: NOTHING,
  }),
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
    renews: 'everything',
    body: v.object({ email: v.string() }),
    answer: p.sessionSchema,
  }),
  installationTrail: route({
    method: 'GET',
    path: '/installation-trail',
    summary: 'What was done to the installation, newest first, and whether its chain holds',
    access: { right: 'rules' },
    query: pageQuery,
    answer: p.installationTrailSchema,
  }),
  health: route({
    method: 'GET',
    path: '/health',
    summary: 'Whether the server and its database answer',
    access: 'anyone',
    answer: v.object({ status: v.literal('ok') }),
  }),
}

/** The stand-in for mail that ships with the app. */
export const postRoomRoutes = {
  timeStamp: route({
    method: 'POST',
    path: '/time-stamp',
    summary: 'The stand-in for a time-stamp authority stamps (RFC 3161)',
    access: 'anyone',
    renews: [],
    upload: true,
    limit: 4096,
    answer: 'application/timestamp-reply',
  }),
  receiveText: route({
    method: 'POST',
    path: '/post-room/texts',
    summary: 'The stand-in for a gateway of texts takes one',
    access: 'anyone',
    renews: ['receivedTexts'],
    body: p.textToSend,
    answer: NOTHING,
  }),
  receivedTexts: route({
    method: 'GET',
    path: '/post-room/texts',
    summary: 'What the simulator for text messages has received',
    access: { right: 'post room' },
    query: v.object({ search: v.optional(v.pipe(v.string(), v.maxLength(100))) }),
    answer: v.array(p.receivedTextSchema),
  }),
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
