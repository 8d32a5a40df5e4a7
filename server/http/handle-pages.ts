import * as oneOffs from '#server/services/making/one-off.ts'
import * as forms from '#server/services/studio/forms.ts'
import * as files from '#server/services/templates/page-files.ts'
import { notFound } from '#server/ground/problem.ts'
import { uploaded } from './files.ts'
import { done, signedIn } from './handlers.ts'
import type { Handlers } from './handlers.ts'

export const pageHandlers = {
  bringIn: async ({ app, query, request, ...call }) =>
    files.bringIn(app, signedIn(call), query.name, uploaded(request.body)),
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
  startForm: async ({ app, body, ...call }) => forms.startForm(app, signedIn(call), body),
  replacePages: async ({ app, body }) => forms.replace(app, body.content, body.old, body.file),
  findPhrase: async ({ app, body }) => forms.phrasePlaces(app, body.content, body.phrase),
  followCues: async ({ app, body }) => forms.followCues(app, body.content),
  likelyBlanks: async ({ app, params }) => forms.likely(app, params.file),
  startOneOff: async ({ app, body, ...call }) => oneOffs.startOneOff(app, signedIn(call), body),
  oneOffs: async ({ app, query, ...call }) => oneOffs.begunOneOffs(app, signedIn(call), query.record),
  dropOneOff: async ({ app, params, ...call }) => {
    await oneOffs.dropOneOff(app, signedIn(call), params.id)
    return done
  },
  oneOff: async ({ app, params, ...call }) => oneOffs.readOneOff(app, signedIn(call), params.id),
  saveOneOff: async ({ app, params, body, ...call }) =>
    oneOffs.saveOneOff(app, signedIn(call), params.id, body.version, body.content),
  makeOneOff: async ({ app, params, body, ...call }) =>
    oneOffs.makeOneOff(app, signedIn(call), params.id, body.version),
  keepOneOff: async ({ app, params, body, ...call }) =>
    oneOffs.keepOneOff(app, signedIn(call), params.id, body),
} satisfies Partial<Handlers>
