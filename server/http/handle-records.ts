import { readFields, saveFields } from '#server/services/records/record-fields.ts'
import * as one from '#server/services/making/make-one.ts'
import * as imports from '#server/services/records/record-imports.ts'
import * as deals from '#server/services/records/record-sources.ts'
import * as lists from '#server/services/records/record-lists.ts'
import * as packets from '#server/services/templates/packets.ts'
import * as records from '#server/services/records/records.ts'
import { sendFile } from './files.ts'
import type { Handlers } from './handlers.ts'

export const recordHandlers = {
  records: async ({ app, params, query }) => records.listRecords(app, params.kind, query),
  recordFields: async ({ app, params }) => readFields(app, params.kind),
  saveRecordFields: async ({ app, person, params, body }) =>
    saveFields(app, person, params.kind, body.fields),
  exportRecords: async ({ app, params, query, response }) => {
    const { name, bytes, mediaType } = await lists.exportRecords(app, params.kind, query)
    sendFile(response, bytes, name, mediaType, 'attachment')
  },
  recordViews: async ({ app, params }) => lists.listViews(app, params.kind),
  keepView: async ({ app, person, params, body }) => lists.keepView(app, person, params.kind, body),
  dropView: async ({ app, person, params }) => lists.dropView(app, person, params.kind, params.view),
  makeRecord: async ({ app, person, params, body }) => records.makeRecord(app, person, params.kind, body),
  record: async ({ app, params }) => records.readRecord(app, params.kind, params.id),
  recordFile: async ({ app, params, response }) => {
    const { bytes, name } = await records.fileOfRecord(app, params.kind, params.id, params.sha256)
    // Some of these come from outside: none is shown in place, whatever it says it is.
    sendFile(response, bytes, name, 'application/octet-stream', 'attachment')
  },
  setResponsible: async ({ app, person, params, body }) =>
    records.setResponsible(app, person, params.kind, params.id, body.person),
  saveRecord: async ({ app, person, params, body }) =>
    records.saveRecord(app, person, params.kind, params.id, body),
  recordProof: async ({ app, person, params, body }) => one.proveOne(app, person, params, body),
  typedProof: async ({ app, person, body }) => one.proveOne(app, person, null, body),
  makeTyped: async ({ app, person, body }) => one.makeOne(app, person, null, body),
  makeOneAgreement: async ({ app, person, params, body }) => one.makeOne(app, person, params, body),
  changeRecords: async ({ app, person, params, body }) =>
    records.changeRecords(app, person, params.kind, body),
  previewImport: async ({ app, person, params, body }) =>
    imports.previewImport(app, person, params.kind, body),
  importRecords: async ({ app, person, params, body }) =>
    imports.importRecords(app, person, params.kind, body),
  imports: async ({ app }) => imports.listImports(app),
  undoImport: async ({ app, person, params }) => imports.undoImport(app, person, params.id),
  dealsToSheet: async ({ app, person, body }) => deals.dealsToSheet(app, person, body.ids),
  dealColumns: async ({ app }) => deals.dealColumns(app),
  packets: async ({ app }) => packets.listPackets(app),
  makePacket: async ({ app, person, body }) => packets.makePacket(app, person, body),
  savePacket: async ({ app, person, params, body }) => packets.savePacket(app, person, params.id, body),
  dropPacket: async ({ app, person, params }) => packets.dropPacket(app, person, params.id),
} satisfies Partial<Handlers>
