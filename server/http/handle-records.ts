import * as one from '#server/services/making/make-one.ts'
import * as imports from '#server/services/records/record-imports.ts'
import * as deals from '#server/services/records/record-sources.ts'
import * as lists from '#server/services/records/record-lists.ts'
import * as packets from '#server/services/templates/packets.ts'
import * as records from '#server/services/records/records.ts'
import { sendFile } from './files.ts'
import { done, signedIn } from './handlers.ts'
import type { Handlers } from './handlers.ts'

export const recordHandlers = {
  records: async ({ app, params, query }) => records.listRecords(app, params.kind, query),
  recordFields: async ({ app, params }) => records.readFields(app, params.kind),
  saveRecordFields: async ({ app, params, body, ...call }) =>
    records.saveFields(app, signedIn(call), params.kind, body.fields),
  exportRecords: async ({ app, params, query, response }) => {
    const { name, bytes, mediaType } = await lists.exportRecords(app, params.kind, query)
    sendFile(response, bytes, name, mediaType, 'attachment')
  },
  recordViews: async ({ app, params }) => lists.listViews(app, params.kind),
  keepView: async ({ app, params, body, ...call }) => lists.keepView(app, signedIn(call), params.kind, body),
  dropView: async ({ app, params, ...call }) => {
    await lists.dropView(app, signedIn(call), params.kind, params.view)
    return done
  },
  makeRecord: async ({ app, params, body, ...call }) =>
    records.makeRecord(app, signedIn(call), params.kind, body),
  record: async ({ app, params }) => records.readRecord(app, params.kind, params.id),
  recordFile: async ({ app, params, response }) => {
    const { bytes, name } = await records.fileOfRecord(app, params.kind, params.id, params.sha256)
    // Some of these come from outside: none is shown in place, whatever it says it is.
    sendFile(response, bytes, name, 'application/octet-stream', 'attachment')
  },
  setResponsible: async ({ app, params, body, ...call }) => {
    await records.setResponsible(app, signedIn(call), params.kind, params.id, body.person)
    return done
  },
  saveRecord: async ({ app, params, body, ...call }) =>
    records.saveRecord(app, signedIn(call), params.kind, params.id, body),
  recordProof: async ({ app, params, body, ...call }) => one.proveOne(app, signedIn(call), params, body),
  makeOneAgreement: async ({ app, params, body, ...call }) => one.makeOne(app, signedIn(call), params, body),
  changeRecords: async ({ app, params, body, ...call }) =>
    records.changeRecords(app, signedIn(call), params.kind, body),
  previewImport: async ({ app, params, body, ...call }) =>
    imports.previewImport(app, signedIn(call), params.kind, body),
  importRecords: async ({ app, params, body, ...call }) =>
    imports.importRecords(app, signedIn(call), params.kind, body),
  imports: async ({ app }) => imports.listImports(app),
  undoImport: async ({ app, params, ...call }) => imports.undoImport(app, signedIn(call), params.id),
  dealsToSheet: async ({ app, body, ...call }) => deals.dealsToSheet(app, signedIn(call), body.ids),
  dealColumns: async ({ app }) => deals.dealColumns(app),
  packets: async ({ app }) => packets.listPackets(app),
  makePacket: async ({ app, body, ...call }) => packets.makePacket(app, signedIn(call), body),
  savePacket: async ({ app, params, body, ...call }) => {
    await packets.savePacket(app, signedIn(call), params.id, body)
    return done
  },
  dropPacket: async ({ app, params, ...call }) => {
    await packets.dropPacket(app, signedIn(call), params.id)
    return done
  },
} satisfies Partial<Handlers>
