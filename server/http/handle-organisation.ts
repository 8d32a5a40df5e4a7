import { found, changeSettings, readSettingsPage } from '#server/services/installation/organisation.ts'
import { openSession } from '#server/services/installation/people.ts'
import { sessionAnswer, setCookie } from './handle-people.ts'
import type { Handlers } from './handlers.ts'

export const organisationHandlers = {
  settings: async ({ app, person }) => readSettingsPage(app, person),
  changeSettings: async ({ app, person, body }) => changeSettings(app, person, body),
  found: async ({ app, body, response, address }) => {
    const person = await found(app, body)
    setCookie(app, response, await openSession(app, person, address))
    return sessionAnswer(app, person)
  },
} satisfies Partial<Handlers>
