import { search } from '#server/services/search/search.ts'
import type { Response } from 'express'
import type { Api } from '#contract/api.ts'
import type { Person } from '#contract/person.ts'
import type { Answer } from '#contract/route.ts'
import { readCookie, SESSION_COOKIE } from './session.ts'
import * as people from '#server/services/installation/people.ts'
import { foundOrganisation } from '#server/services/installation/organisation.ts'
import { readInstallation } from '#server/services/agreements/verifying.ts'
import {
  listReceived,
  listTexts,
  readReceived,
  receivedAttachment,
  receiveText,
} from '#server/post/post-room.ts'
import { sql } from 'drizzle-orm'
import type { Handlers } from './handlers.ts'
import type { App } from '#server/app/app.ts'
import { Refusal } from '#server/ground/problem.ts'
import { tellTime } from '#server/services/signing/seal-keys.ts'
import { sendFile, uploaded } from './files.ts'

/** Has the browser keep a session. */
export function setCookie(app: App, response: Response, token: string): void {
  response.cookie(SESSION_COOKIE, token, {
    httpOnly: true,
    sameSite: 'lax',
    secure: app.settings.publicUrl.startsWith('https:'),
    maxAge: people.SESSION_DAYS * 86_400_000,
    path: '/',
  })
}

/** Who is signed in, and whose installation it is; of that, who is not signed in is told the name alone. */
export async function sessionAnswer(app: App, person: Person | null): Promise<Answer<Api['session']>> {
  const organisation = await foundOrganisation(app.db)
  return {
    person,
    demo: app.settings.demo,
    organisation: organisation && {
      name: organisation.name,
      sender: person ? organisation.sender : '',
      synonyms: person ? organisation.synonyms.map((group) => [...group]) : [],
    },
  }
}

export const peopleHandlers = {
  search: async ({ app, person, query }) => search(app, person, query),
  session: async ({ app, person }) => sessionAnswer(app, person),
  signIn: async ({ app, body, response, address }) => {
    const { person, token } = await people.signIn(app, body.email, body.password, address)
    setCookie(app, response, token)
    return sessionAnswer(app, person)
  },
  demoSignIn: async ({ app, body, response, address }) => {
    const { person, token } = await people.demoSignIn(app, body.email, address)
    setCookie(app, response, token)
    return sessionAnswer(app, person)
  },
  signOut: async ({ app, request, response }) => {
    const token = readCookie(request)
    if (token) await people.signOut(app, token)
    response.clearCookie(SESSION_COOKIE, { path: '/' })
  },
  installationTrail: async ({ app, person, query }) => readInstallation(app, person, query),
  demoPeople: async ({ app }) => people.demoPeople(app),
  health: async ({ app }) => {
    await app.db.execute(sql`select 1`)
    return { status: 'ok' }
  },
  timeStamp: async ({ app, request, response }) => {
    const organisation = app.settings.time.own ? await foundOrganisation(app.db) : null
    const query = uploaded(request.body)
    const reply = organisation
      ? await tellTime(app, organisation.name, request.headers.authorization, query)
      : null
    if (!reply)
      throw new Refusal(
        400,
        'Not stamped',
        'This answers the installation’s own queries for a time stamp over a SHA-256, and no others.',
      )
    response.type('application/timestamp-reply').end(reply)
  },
  receiveText: async ({ app, body, request }) => receiveText(app, request.headers.authorization, body),
  receivedTexts: async ({ app, person, query }) => listTexts(app, person, query.search),
  receivedMails: async ({ app, person, query }) => listReceived(app, person, query.search),
  receivedMail: async ({ app, person, params }) => readReceived(app, person, params.id),
  receivedAttachment: async ({ app, person, params, response }) => {
    const found = await receivedAttachment(app, person, params.id, params.index)
    sendFile(response, found.bytes, found.name, 'application/octet-stream', 'attachment')
  },
} satisfies Partial<Handlers>
