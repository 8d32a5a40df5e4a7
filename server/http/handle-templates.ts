import * as cases from '#server/services/templates/cases.ts'
import * as documents from '#server/services/templates/documents.ts'
import { fitting } from '#server/services/studio/fitting.ts'
import * as library from '#server/services/templates/library.ts'
import * as looks from '#server/services/templates/looks.ts'
import * as pictures from '#server/services/templates/pictures.ts'
import * as proofs from '#server/services/studio/proofs.ts'
import * as shelves from '#server/services/templates/shelves.ts'
import { requireRight } from '#server/services/templates/shelves.ts'
import { survey } from '#server/services/studio/surveys.ts'
import * as templates from '#server/services/templates/templates.ts'
import { DOCX, sendFile, uploaded } from './files.ts'
import { done, signedIn } from './handlers.ts'
import type { Handlers } from './handlers.ts'

export const templateHandlers = {
  templates: async ({ app, query, ...call }) =>
    templates.listTemplates(app, signedIn(call), await fitting(app, query)),
  template: async ({ app, params, ...call }) => templates.readTemplate(app, signedIn(call), params.id),
  edition: async ({ app, params, ...call }) =>
    templates.readEdition(app, signedIn(call), params.id, params.number),
  startTemplate: async ({ app, body, ...call }) => templates.startTemplate(app, signedIn(call), body),
  importTemplate: async ({ app, query, request, ...call }) =>
    documents.importTemplate(app, signedIn(call), query.name, uploaded(request.body), query.shelf ?? null),
  exportTemplate: async ({ app, params, response, ...call }) => {
    const { bytes, name } = await documents.exportTemplate(app, signedIn(call), params.id)
    sendFile(response, bytes, `${name}.docx`, DOCX, 'attachment')
  },
  shelveTemplate: async ({ app, params, body, ...call }) => {
    await templates.shelveTemplate(app, signedIn(call), params.id, body.shelf)
    return done
  },
  saveDraft: async ({ app, params, body, ...call }) =>
    templates.saveDraft(app, signedIn(call), params.id, body.version, body.content),
  publish: async ({ app, params, body, ...call }) =>
    templates.publish(app, signedIn(call), params.id, body.version, body.note),
  proof: async ({ app, body, ...call }) => proofs.proof(app, signedIn(call), body),
  printProof: async ({ app, body, response, ...call }) => {
    const { standard, ...request } = body
    const bytes = await proofs.printProof(app, signedIn(call), request, standard)
    sendFile(response, bytes, `${request.content.title}, proof.pdf`, 'application/pdf', 'attachment')
  },
  survey: async ({ app, body, ...call }) => survey(app, signedIn(call), body),
  looks: async ({ app }) => looks.listLooks(app),
  makeLook: async ({ app, body, ...call }) => looks.makeLook(app, signedIn(call), body),
  saveLook: async ({ app, params, body, ...call }) => looks.saveLook(app, signedIn(call), params.id, body),
  uploadPicture: async ({ app, request, ...call }) =>
    pictures.uploadPicture(app, signedIn(call), uploaded(request.body)),
  picture: async ({ app, params, response }) => {
    const { bytes, mediaType } = await pictures.picture(app, params.file)
    // A drawing is shown as an image only: opened by itself it may run nothing.
    response.setHeader('Content-Security-Policy', "default-src 'none'; style-src 'unsafe-inline'; sandbox")
    response.setHeader('Cache-Control', 'private, max-age=31536000, immutable')
    response.type(mediaType).end(bytes)
  },
  shelves: async ({ app, ...call }) => shelves.listShelves(app, signedIn(call)),
  makeShelf: async ({ app, body, ...call }) => shelves.makeShelf(app, signedIn(call), body),
  saveShelf: async ({ app, params, body, ...call }) => {
    await shelves.saveShelf(app, signedIn(call), params.id, body)
    return done
  },
  teams: async ({ app }) => shelves.listTeams(app),
  library: async ({ app }) => library.listLibrary(app),
  keepClause: async ({ app, body, ...call }) => library.keepClause(app, signedIn(call), body),
  changeClause: async ({ app, params, body, ...call }) =>
    library.changeClause(app, signedIn(call), params.id, body),
  clauseEditions: async ({ app, params }) => library.clauseEditions(app, params.id),
  savedCases: async ({ app, params }) => cases.listCases(app, params.id),
  keepCase: async ({ app, params, body, ...call }) => {
    await requireRight(app.db, signedIn(call), params.id, 'edit')
    return cases.keepCase(app, signedIn(call), params.id, body)
  },
  changeCase: async ({ app, params, body, ...call }) => {
    await requireRight(app.db, signedIn(call), params.id, 'edit')
    return cases.changeCase(app, signedIn(call), params.id, params.case, body)
  },
  dropCase: async ({ app, params, ...call }) => {
    await requireRight(app.db, signedIn(call), params.id, 'edit')
    await cases.dropCase(app, signedIn(call), params.id, params.case)
    return done
  },
} satisfies Partial<Handlers>
