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
import type { Handlers } from './handlers.ts'

export const templateHandlers = {
  templates: async ({ app, person, query }) =>
    templates.listTemplates(app, person, await fitting(app, query)),
  template: async ({ app, person, params }) => templates.readTemplate(app, person, params.id),
  edition: async ({ app, person, params }) => templates.readEdition(app, person, params.id, params.number),
  startTemplate: async ({ app, person, body }) => templates.startTemplate(app, person, body),
  importTemplate: async ({ app, person, query, request }) =>
    documents.importTemplate(app, person, query.name, uploaded(request.body), query.shelf ?? null),
  exportTemplate: async ({ app, person, params, response }) => {
    const { bytes, name } = await documents.exportTemplate(app, person, params.id)
    sendFile(response, bytes, `${name}.docx`, DOCX, 'attachment')
  },
  shelveTemplate: async ({ app, person, params, body }) =>
    templates.shelveTemplate(app, person, params.id, body.shelf),
  saveDraft: async ({ app, person, params, body }) =>
    templates.saveDraft(app, person, params.id, body.version, body.content),
  publish: async ({ app, person, params, body }) =>
    templates.publish(app, person, params.id, body.version, body.note),
  proof: async ({ app, person, body }) => proofs.proof(app, person, body),
  printProof: async ({ app, person, body, response }) => {
    const { standard, ...request } = body
    const bytes = await proofs.printProof(app, person, request, standard)
    sendFile(response, bytes, `${request.content.title}, proof.pdf`, 'application/pdf', 'attachment')
  },
  survey: async ({ app, person, body }) => survey(app, person, body),
  looks: async ({ app }) => looks.listLooks(app),
  makeLook: async ({ app, person, body }) => looks.makeLook(app, person, body),
  saveLook: async ({ app, person, params, body }) => looks.saveLook(app, person, params.id, body),
  uploadPicture: async ({ app, person, request }) =>
    pictures.uploadPicture(app, person, uploaded(request.body)),
  picture: async ({ app, params, response }) => {
    const { bytes, mediaType } = await pictures.picture(app, params.file)
    // A drawing is shown as an image only: opened by itself it may run nothing.
    response.setHeader('Content-Security-Policy', "default-src 'none'; style-src 'unsafe-inline'; sandbox")
    response.setHeader('Cache-Control', 'private, max-age=31536000, immutable')
    response.type(mediaType).end(bytes)
  },
  shelves: async ({ app, person }) => shelves.listShelves(app, person),
  makeShelf: async ({ app, person, body }) => shelves.makeShelf(app, person, body),
  saveShelf: async ({ app, person, params, body }) => shelves.saveShelf(app, person, params.id, body),
  teams: async ({ app }) => shelves.listTeams(app),
  library: async ({ app }) => library.listLibrary(app),
  keepClause: async ({ app, person, body }) => library.keepClause(app, person, body),
  changeClause: async ({ app, person, params, body }) => library.changeClause(app, person, params.id, body),
  clauseEditions: async ({ app, params }) => library.clauseEditions(app, params.id),
  savedCases: async ({ app, params }) => cases.listCases(app, params.id),
  keepCase: async ({ app, person, params, body }) => {
    await requireRight(app.db, person, params.id, 'edit')
    return cases.keepCase(app, person, params.id, body)
  },
  changeCase: async ({ app, person, params, body }) => {
    await requireRight(app.db, person, params.id, 'edit')
    return cases.changeCase(app, person, params.id, params.case, body)
  },
  dropCase: async ({ app, person, params }) => {
    await requireRight(app.db, person, params.id, 'edit')
    await cases.dropCase(app, person, params.id, params.case)
  },
} satisfies Partial<Handlers>
