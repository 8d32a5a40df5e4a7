import { documentNow } from '#server/services/agreements/document-now.ts'
import { trailOf } from '#server/services/agreements/agreements.ts'
import * as asking from '#server/services/api/intakes.ts'
import * as keys from '#server/services/api/keys.ts'
import * as runs from '#server/services/api/runs.ts'
import * as starts from '#server/services/api/starts.ts'
import * as hooks from '#server/services/webhooks/webhooks.ts'
import * as troubles from '#server/services/api/troubles.ts'
import * as told from '#server/services/api/views.ts'
import { sendFile } from './files.ts'
import type { Handlers } from './handlers.ts'

export const programHandlers = {
  keys: async ({ app, person }) => keys.listKeys(app, person),
  makeKey: async ({ app, person, body }) => keys.makeKey(app, person, body),
  rotateKey: async ({ app, person, params, body }) => keys.rotateKey(app, person, params.id, body.hours),
  revokeKey: async ({ app, person, params }) => keys.revokeKey(app, person, params.id),
  webhooks: async ({ app, person }) => hooks.listWebhooks(app, person),
  makeWebhook: async ({ app, person, body }) => hooks.makeWebhook(app, person, body),
  dropWebhook: async ({ app, person, params }) => hooks.dropWebhook(app, person, params.id),
  deliveries: async ({ app, person, params }) => hooks.deliveriesOf(app, person, params.id),
  troubles: async ({ app, person }) => troubles.troublesOf(app, person),
  tellNow: async ({ app, person, params }) => hooks.tellNow(app, person, params.id),
  startAgain: async ({ app, person, params }) => troubles.startAgain(app, person, params.id),
  tellAgain: async ({ app, person, params }) => hooks.resendEvent(app, person, params.id, params.delivery),
  programTemplates: async ({ app, caller }) => told.templateViews(app, caller.person),
  programTemplate: async ({ app, caller, params }) => told.templateView(app, caller.person, params.id),
  programPackets: async ({ app, caller }) => told.packetViews(app, caller.person),
  programPacket: async ({ app, caller, params }) => told.packetView(app, caller.person, params.id),
  programRecords: async ({ app, params, query }) => told.recordViews(app, params.kind, query),
  programStart: async ({ app, caller, body, reference, response }) => {
    const started = await starts.startOne(app, caller, body, reference)
    response.location(started.at)
    return started
  },
  programStarts: async ({ app, caller, body, reference }) => starts.startMany(app, caller, body, reference),
  programStartRun: async ({ app, caller, body, reference, response }) => {
    const started = await runs.startRunOf(app, caller, body, reference)
    response.location(started.at)
    return started
  },
  programRun: async ({ app, caller, params }) => runs.runView(app, caller, params.id),
  programStarted: async ({ app, caller, params }) => starts.readStart(app, caller, params.id),
  programForms: async ({ app }) => asking.formViews(app),
  programForm: async ({ app, params }) => asking.formView(app, params.id),
  programAsk: async ({ app, caller, params, body, reference, response }) => {
    const asked = await asking.askOne(app, caller, params.id, body, reference)
    response.location(asked.at)
    return asked
  },
  programAnswer: async ({ app, caller, params }) => asking.questionViews(app, caller, params.id),
  programAgreements: async ({ app, query }) => told.agreementViews(app, query),
  programAgreement: async ({ app, caller, params }) => told.agreementView(app, caller.person, params.id),
  programTrail: async ({ app, params }) => trailOf(app, params.id),
  programDocument: async ({ app, params, response }) => {
    const { bytes, fileName } = await documentNow(app, params.id)
    sendFile(response, bytes, fileName, 'application/pdf', 'inline')
  },
  programSend: async ({ app, caller, params }) => told.sendStarted(app, caller.person, params.id),
} satisfies Partial<Handlers>
