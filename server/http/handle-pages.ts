import * as oneOffs from '#server/services/making/one-off.ts'
import * as forms from '#server/services/studio/forms.ts'
import * as files from '#server/services/templates/page-files.ts'
import { notFound } from '#server/ground/problem.ts'
import { uploaded } from './files.ts'
import type { Handlers } from './handlers.ts'

export const pageHandlers = {
  bringIn: async ({ app, person, query, request }) =>
    files.bringIn(app, person, query.name, uploaded(request.body)),
  pageFile: async ({ app, params }) => files.pageFileOf(app, params.file),
  pagesPdf: async ({ app, params, response }) => {
    const bytes = await files.pagesPdf(app, params.file)
    response.setHeader('Cache-Control', 'private, max-age=31536000, immutable')
    response.type('application/pdf').end(bytes)
  },
  pageReads: async ({ app, params }) => {
    const [found] = await files.readsOf(app.db, params.file, [params.page])
    if (!found) throw notFound('page')
    return found.read
  },
  startForm: async ({ app, person, body }) => forms.startForm(app, person, body),
  replacePages: async ({ app, body }) => forms.replace(app, body.content, body.old, body.file),
  findPhrase: async ({ app, body }) => forms.phrasePlaces(app, body.content, body.phrase),
  followCues: async ({ app, body }) => forms.followCues(app, body.content),
  likelyBlanks: async ({ app, params }) => forms.likely(app, params.file),
  startOneOff: async ({ app, person, body }) => oneOffs.startOneOff(app, person, body),
  oneOffs: async ({ app, person, query }) => oneOffs.begunOneOffs(app, person, query.record),
  dropOneOff: async ({ app, person, params }) => oneOffs.dropOneOff(app, person, params.id),
  oneOff: async ({ app, person, params }) => oneOffs.readOneOff(app, person, params.id),
  saveOneOff: async ({ app, person, params, body }) =>
    oneOffs.saveOneOff(app, person, params.id, body.version, body.content),
  makeOneOff: async ({ app, person, params, body }) =>
    oneOffs.makeOneOff(app, person, params.id, body.version),
  keepOneOff: async ({ app, person, params, body }) => oneOffs.keepOneOff(app, person, params.id, body),
} satisfies Partial<Handlers>
