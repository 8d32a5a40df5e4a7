import { approveMany, noteOpened } from '#server/services/agreements/approvals.ts'
import { answer, ask, handOver, remind } from '#server/services/agreements/asking.ts'
import * as absences from '#server/services/rules/absences.ts'
import { differences } from '#server/services/making/differences.ts'
import { exportTable, importTable } from '#server/services/rules/models.ts'
import { lookBackOver, readRuleRecords } from '#server/services/studio/rule-records.ts'
import * as tables from '#server/services/rules/tables.ts'
import { invalid } from '#server/ground/problem.ts'
import { sendFile, uploaded } from './files.ts'
import { done, signedIn } from './handlers.ts'
import type { Handlers } from './handlers.ts'

export const ruleHandlers = {
  rules: async ({ app }) => tables.listTables(app),
  ruleNames: async ({ app, query }) => {
    if (query.kind === 'all') return tables.readNames(app, { kind: 'all' })
    if (!query.id) throw invalid('Of what, is not said.')
    return tables.readNames(app, { kind: query.kind, id: query.id })
  },
  makeRuleTable: async ({ app, body, ...call }) => tables.makeTable(app, signedIn(call), body.draft),
  importRuleTable: async ({ app, query, request, ...call }) =>
    importTable(app, signedIn(call), query.name, uploaded(request.body)),
  ruleTable: async ({ app, params }) => tables.readTable(app, params.id),
  ruleEdition: async ({ app, params }) => tables.readRuleEdition(app, params.id, params.number),
  exportRuleTable: async ({ app, params, response }) => {
    const { bytes, name } = await exportTable(app, params.id)
    sendFile(response, bytes, `${name}.dmn`, 'application/octet-stream', 'attachment')
  },
  saveRuleDraft: async ({ app, params, body, ...call }) =>
    tables.saveTable(app, signedIn(call), params.id, body),
  publishRules: async ({ app, params, body, ...call }) =>
    tables.publishTable(app, signedIn(call), params.id, body),
  setRulesInForce: async ({ app, params, body, ...call }) => {
    await tables.setInForce(app, signedIn(call), params.id, body.inForce)
    return done
  },
  keepRuleCase: async ({ app, params, body, ...call }) =>
    tables.keepRuleCase(app, signedIn(call), params.id, body),
  dropRuleCase: async ({ app, params, ...call }) => {
    await tables.dropRuleCase(app, signedIn(call), params.id, params.case)
    return done
  },
  ruleRecords: async ({ app, body }) => readRuleRecords(app, body),
  lookBack: async ({ app, params, body }) => lookBackOver(app, params.id, body),
  approveMany: async ({ app, body, ...call }) => approveMany(app, signedIn(call), body.steps),
  differences: async ({ app, params, ...call }) => {
    await noteOpened(app, signedIn(call), params.id)
    return differences(app, params.id)
  },
  handOverStep: async ({ app, params, body, ...call }) => {
    await handOver(app, signedIn(call), params.id, params.step, body)
    return done
  },
  remindApprover: async ({ app, params, ...call }) => {
    await remind(app, signedIn(call), params.id, params.step)
    return done
  },
  askQuestion: async ({ app, params, body, ...call }) => {
    await ask(app, signedIn(call), params.id, params.step, body.text)
    return done
  },
  answerQuestion: async ({ app, params, body, ...call }) => {
    await answer(app, signedIn(call), params.id, params.question, body.text)
    return done
  },
  absences: async ({ app, ...call }) => absences.listAbsences(app, signedIn(call)),
  addAbsence: async ({ app, body, ...call }) => absences.addAbsence(app, signedIn(call), body),
  dropAbsence: async ({ app, params, ...call }) => {
    await absences.dropAbsence(app, signedIn(call), params.id)
    return done
  },
  setApprovalMail: async ({ app, body, ...call }) => {
    await absences.setApprovalMail(app, signedIn(call), body.mail)
    return done
  },
  setLeft: async ({ app, params, body, ...call }) => {
    await absences.setLeft(app, signedIn(call), params.id, body.left)
    return done
  },
} satisfies Partial<Handlers>
