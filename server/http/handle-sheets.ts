import * as mappings from '#server/services/sheets/mappings.ts'
import * as mending from '#server/services/runs/mending.ts'
import * as rows from '#server/services/sheets/sheet-rows.ts'
import * as sheets from '#server/services/sheets/sheets.ts'
import type { Handlers } from './handlers.ts'
import { uploaded } from './files.ts'

export const sheetHandlers = {
  sheets: async ({ app, query }) => sheets.listSheets(app, query.template ?? null),
  uploadSheet: async ({ app, person, query, request }) => {
    return sheets.uploadSheet(app, person, query.name, uploaded(request.body))
  },
  sheet: async ({ app, params }) => sheets.readSheet(app, params.id),
  sheetRows: async ({ app, params, query }) => rows.sheetRows(app, params.id, query),
  mapping: async ({ app, params }) => mappings.readMapping(app, params.id, params.template),
  saveMapping: async ({ app, person, params, body }) =>
    mappings.saveMapping(app, person, params.id, params.template, body.columns),
  readAgain: async ({ app, person, params, body }) => mending.readAgain(app, person, params.id, body),
  sayColumn: async ({ app, person, params, body }) => mending.sayColumn(app, person, params.id, body),
  mendCells: async ({ app, person, params, body }) => mending.mendCells(app, person, params.id, body),
} satisfies Partial<Handlers>
