import { approveMany, noteOpened } from '#server/services/agreements/approvals.ts'
import { answer, ask, handOver, remind } from '#server/services/agreements/asking.ts'
import * as absences from '#server/services/rules/absences.ts'
import { differences } from '#server/services/making/differences.ts'
import { exportTable, importTable } from '#server/services/rules/models.ts'
import { lookBackOver, readRuleRecords } from '#server/services/studio/rule-records.ts'
import * as tables from '#server/services/rules/tables.ts'
import { invalid } from '#server/ground/problem.ts'
import { sendFile, uploaded } from './files.ts'
import type { Handlers } from './handlers.ts'

export const ruleHandlers = {
  rules: async ({ app }) => tables.listTables(app),
  ruleNames: async ({ app, query }) => {
    if (query.kind === 'all') return tables.readNames(app, { kind: 'all' })
    if (!query.id) throw invalid('Of what, is not said.')
    return tables.readNames(app, { kind: query.kind, id: query.id })
  },
  makeRuleTable: async ({ app, person, body }) => tables.makeTable(app, person, body.draft),
  importRuleTable: async ({ app, person, query, request }) =>
    importTable(app, person, query.name, uploaded(request.body)),
  ruleTable: async ({ app, params }) => tables.readTable(app, params.id),
  ruleEdition: async ({ app, params }) => tables.readRuleEdition(app, params.id, params.number),
  exportRuleTable: async ({ app, params, response }) => {
    const { bytes, name } = await exportTable(app, params.id)
    sendFile(response, bytes, `${name}.dmn`, 'application/octet-stream', 'attachment')
  },
  saveRuleDraft: async ({ app, person, params, body }) => tables.saveTable(app, person, params.id, body),
  publishRules: async ({ app, person, params, body }) => tables.publishTable(app, person, params.id, body),
  setRulesInForce: async ({ app, person, params, body }) =>
    tables.setInForce(app, person, params.id, body.inForce),
  keepRuleCase: async ({ app, person, params, body }) => tables.keepRuleCase(app, person, params.id, body),
  dropRuleCase: async ({ app, person, params }) => tables.dropRuleCase(app, person, params.id, params.case),
  ruleRecords: async ({ app, body }) => readRuleRecords(app, body),
  lookBack: async ({ app, params, body }) => lookBackOver(app, params.id, body),
  approveMany: async ({ app, person, body }) => approveMany(app, person, body.steps),
  differences: async ({ app, person, params }) => {
    await noteOpened(app, person, params.id)
    return differences(app, params.id)
  },
  handOverStep: async ({ app, person, params, body }) => handOver(app, person, params.id, params.step, body),
  remindApprover: async ({ app, person, params }) => remind(app, person, params.id, params.step),
  askQuestion: async ({ app, person, params, body }) => ask(app, person, params.id, params.step, body.text),
  answerQuestion: async ({ app, person, params, body }) =>
    answer(app, person, params.id, params.question, body.text),
  absences: async ({ app, person }) => absences.listAbsences(app, person),
  addAbsence: async ({ app, person, body }) => absences.addAbsence(app, person, body),
  dropAbsence: async ({ app, person, params }) => absences.dropAbsence(app, person, params.id),
  setApprovalMail: async ({ app, person, body }) => absences.setApprovalMail(app, person, body.mail),
  setLeft: async ({ app, person, params, body }) => absences.setLeft(app, person, params.id, body.left),
} satisfies Partial<Handlers>
