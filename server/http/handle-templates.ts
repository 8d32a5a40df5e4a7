import { proof } from '#server/services/proofs.ts'
import * as sheets from '#server/services/sheets.ts'
import * as templates from '#server/services/templates.ts'
import { invalid } from '#server/problem.ts'
import { signedIn } from './handlers.ts'
import type { Handlers } from './handlers.ts'

export const templateHandlers = {
  templates: async ({ app }) => templates.listTemplates(app),
  template: async ({ app, params }) => templates.readTemplate(app, params.id),
  saveDraft: async ({ app, params, body, ...call }) =>
    templates.saveDraft(app, signedIn(call), params.id, body.version, body.content),
  publish: async ({ app, params, body, ...call }) =>
    templates.publish(app, signedIn(call), params.id, body.version),
  proof: async ({ app, body }) => proof(app, body),
  sheets: async ({ app }) => sheets.listSheets(app),
  uploadSheet: async ({ app, query, request, ...call }) => {
    if (!Buffer.isBuffer(request.body)) throw invalid('The file is empty.')
    return sheets.uploadSheet(app, signedIn(call), query.name, request.body)
  },
  sheet: async ({ app, params }) => sheets.readSheet(app, params.id),
  sheetRows: async ({ app, params, query }) => sheets.sheetRows(app, params.id, query.offset, query.limit),
  mapping: async ({ app, params }) => sheets.readMapping(app, params.id, params.template),
  saveMapping: async ({ app, params, body }) =>
    sheets.saveMapping(app, params.id, params.template, body.columns),
} satisfies Partial<Handlers>
