import * as v from 'valibot'
import { id, idParams, uploadQuery, wholeNumber } from './basics.ts'
import { NOTHING, route } from './route.ts'
import * as r from './rule.ts'

const caseParams = v.object({ id, case: id })
const editionParams = v.object({ id, number: wholeNumber })
/** What a change of a table may change. */
const TABLES = ['rules', 'ruleTable', 'ruleEdition', 'installationTrail'] as const

/** Rule tables. */
export const ruleRoutes = {
  rules: route({
    method: 'GET',
    path: '/rules',
    summary: 'Rule tables',
    access: 'person',
    answer: v.array(r.ruleTableSummary),
  }),
  ruleNames: route({
    method: 'GET',
    path: '/rule-names',
    summary: 'What a table of a scope may read, and who there is to approve',
    access: 'person',
    query: r.scopeQuery,
    answer: r.ruleNamesSchema,
  }),
  makeRuleTable: route({
    method: 'POST',
    path: '/rules',
    summary: 'Begin a rule table',
    access: { right: 'rules' },
    renews: TABLES,
    body: v.object({ draft: r.ruleTableContent }),
    answer: v.object({ id }),
  }),
  importRuleTable: route({
    method: 'POST',
    path: '/rules/import',
    summary: 'A rule table of a decision model (DMN 1.3)',
    access: { right: 'rules' },
    renews: TABLES,
    query: uploadQuery,
    upload: true,
    answer: r.ruleImported,
  }),
  ruleTable: route({
    method: 'GET',
    path: '/rules/:id',
    summary: 'A rule table with its draft, editions and cases',
    access: 'person',
    params: idParams,
    answer: r.ruleTableSchema,
  }),
  ruleEdition: route({
    method: 'GET',
    path: '/rules/:id/editions/:number',
    summary: 'An edition of a rule table',
    access: 'person',
    params: editionParams,
    answer: r.ruleTableContent,
  }),
  exportRuleTable: route({
    method: 'GET',
    path: '/rules/:id/dmn',
    summary: 'The draft as a decision model (DMN 1.3)',
    access: 'person',
    params: idParams,
    answer: 'application/octet-stream',
  }),
  saveRuleDraft: route({
    method: 'PUT',
    path: '/rules/:id/draft',
    summary: 'Save a rule table’s draft',
    access: { right: 'rules' },
    renews: ['rules', 'installationTrail'],
    params: idParams,
    body: r.ruleDraftChange,
    answer: r.ruleDraftSaved,
  }),
  publishRules: route({
    method: 'POST',
    path: '/rules/:id/publish',
    summary: 'Put the draft in force as the next edition',
    access: { right: 'rules' },
    renews: TABLES,
    params: idParams,
    body: r.rulePublish,
    answer: v.object({ edition: v.number() }),
  }),
  setRulesInForce: route({
    method: 'POST',
    path: '/rules/:id/force',
    summary: 'Take a table out of force, or put it back',
    access: { right: 'rules' },
    renews: TABLES,
    params: idParams,
    body: v.object({ inForce: v.boolean() }),
    answer: NOTHING,
  }),
  keepRuleCase: route({
    method: 'POST',
    path: '/rules/:id/cases',
    summary: 'Keep a case that the table has to decide so',
    access: { right: 'rules' },
    renews: TABLES,
    params: idParams,
    body: r.ruleCaseChange,
    answer: r.ruleCaseSchema,
  }),
  dropRuleCase: route({
    method: 'DELETE',
    path: '/rules/:id/cases/:case',
    summary: 'Drop a case',
    access: { right: 'rules' },
    renews: TABLES,
    params: caseParams,
    answer: NOTHING,
  }),
  ruleRecords: route({
    method: 'POST',
    path: '/rule-records',
    summary: 'Agreements that a scope is about, as rules see them',
    access: 'person',
    renews: [],
    body: v.object({
      scope: r.scopeSchema,
      offset: v.optional(v.pipe(v.number(), v.integer(), v.minValue(0)), 0),
    }),
    answer: r.ruleRecords,
  }),
  lookBack: route({
    method: 'POST',
    path: '/rules/:id/look-back',
    summary: 'What a draft would have asked of agreements that are there',
    access: 'person',
    renews: [],
    params: idParams,
    body: r.lookBackAsked,
    answer: r.lookBackSchema,
  }),
}
