import * as v from 'valibot'
import * as p from './approval.ts'
import { id, idParams } from './basics.ts'
import { NOTHING, route } from './route.ts'

const stepParams = v.object({ id, step: id })
const questionParams = v.object({ id, question: id })
const AGREEMENT = ['agreement', 'agreements', 'desk', 'trail'] as const
const ABSENCES = ['absences', 'desk', 'agreement', 'ruleNames'] as const

/** What approvers do besides deciding one, and who stands in for whom. */
export const approvalRoutes = {
  approveMany: route({
    method: 'POST',
    path: '/agreements/approve',
    summary: 'Approve several, after their wordings were opened',
    access: { right: 'approve' },
    trail: 'agreement',
    renews: AGREEMENT,
    body: p.approveMany,
    answer: p.approvedMany,
  }),
  differences: route({
    method: 'GET',
    path: '/agreements/:id/differences',
    summary: 'What differs from the standard wording and from the last agreement with this customer',
    access: 'person',
    params: idParams,
    answer: p.differencesSchema,
  }),
  handOverStep: route({
    method: 'POST',
    path: '/agreements/:id/steps/:step/hand-over',
    summary: 'Hand one approval to somebody else',
    access: { right: 'approve' },
    trail: 'agreement',
    renews: AGREEMENT,
    params: stepParams,
    body: p.handOverSchema,
    answer: NOTHING,
  }),
  remindApprover: route({
    method: 'POST',
    path: '/agreements/:id/steps/:step/remind',
    summary: 'Remind those who may decide',
    access: { right: 'runs' },
    trail: 'agreement',
    renews: AGREEMENT,
    params: stepParams,
    answer: NOTHING,
  }),
  askQuestion: route({
    method: 'POST',
    path: '/agreements/:id/steps/:step/questions',
    summary: 'Ask before deciding',
    access: { right: 'approve' },
    trail: 'agreement',
    renews: AGREEMENT,
    params: stepParams,
    body: p.askSchema,
    answer: NOTHING,
  }),
  answerQuestion: route({
    method: 'POST',
    path: '/agreements/:id/questions/:question',
    summary: 'Answer an approver’s question',
    access: { right: 'runs' },
    trail: 'agreement',
    renews: AGREEMENT,
    params: questionParams,
    body: p.answerSchema,
    answer: NOTHING,
  }),
  absences: route({
    method: 'GET',
    path: '/absences',
    summary: 'Who is away, and who stands in',
    access: 'person',
    answer: p.absencesSchema,
  }),
  addAbsence: route({
    method: 'POST',
    path: '/absences',
    summary: 'Say that one is away; of others, whoever keeps the rules',
    access: 'person',
    renews: ABSENCES,
    body: p.absenceChange,
    answer: v.object({ id }),
  }),
  dropAbsence: route({
    method: 'DELETE',
    path: '/absences/:id',
    summary: 'Take an absence back',
    access: 'person',
    renews: ABSENCES,
    params: idParams,
    answer: NOTHING,
  }),
  setApprovalMail: route({
    method: 'PUT',
    path: '/approval-mail',
    summary: 'Hear of approvals one by one, or once a day',
    access: 'person',
    renews: ['absences'],
    body: v.object({ mail: v.picklist(['each', 'daily']) }),
    answer: NOTHING,
  }),
  setLeft: route({
    method: 'PUT',
    path: '/people/:id/left',
    summary: 'Say that somebody does not work here any more, or does again',
    access: { right: 'settings' },
    renews: ABSENCES,
    params: idParams,
    body: v.object({ left: v.boolean() }),
    answer: NOTHING,
  }),
}
