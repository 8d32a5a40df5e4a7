import * as mappings from '#server/services/sheets/mappings.ts'
import * as mending from '#server/services/runs/mending.ts'
import * as rows from '#server/services/sheets/sheet-rows.ts'
import * as sheets from '#server/services/sheets/sheets.ts'
import { signedIn } from './handlers.ts'
import type { Handlers } from './handlers.ts'
import { uploaded } from './files.ts'

export const sheetHandlers = {
  sheets: async ({ app, query }) => sheets.listSheets(app, query.template ?? null),
  uploadSheet: async ({ app, query, request, ...call }) => {
    return sheets.uploadSheet(app, signedIn(call), query.name, uploaded(request.body))
  },
  sheet: async ({ app, params }) => sheets.readSheet(app, params.id),
  sheetRows: async ({ app, params, query }) => rows.sheetRows(app, params.id, query),
  mapping: async ({ app, params }) => mappings.readMapping(app, params.id, params.template),
  saveMapping: async ({ app, params, body, ...call }) =>
    mappings.saveMapping(app, signedIn(call), params.id, params.template, body.columns),
  readAgain: async ({ app, params, body, ...call }) =>
    mending.readAgain(app, signedIn(call), params.id, body),
  sayColumn: async ({ app, params, body, ...call }) =>
    mending.sayColumn(app, signedIn(call), params.id, body),
  mendCells: async ({ app, params, body, ...call }) =>
    mending.mendCells(app, signedIn(call), params.id, body),
} satisfies Partial<Handlers>
