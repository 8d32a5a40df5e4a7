import * as o from './organisation.ts'
import { sessionSchema } from './person.ts'
import { route } from './route.ts'

/** Whose installation this is, and its first run. */
export const organisationRoutes = {
  settings: route({
    method: 'GET',
    path: '/settings',
    summary: 'The organisation and its series of numbers',
    access: { right: 'settings' },
    answer: o.settingsSchema,
  }),
  changeSettings: route({
    method: 'PUT',
    path: '/settings',
    summary: 'Change the organisation and the patterns of its numbers',
    access: { right: 'settings' },
    renews: 'everything',
    body: o.settingsChange,
    answer: o.settingsSchema,
  }),
  found: route({
    method: 'POST',
    path: '/founding',
    summary: 'The first run: makes the organisation and its administrator, who is signed in then; once',
    access: 'anyone',
    renews: 'everything',
    body: o.founding,
    answer: sessionSchema,
  }),
}
