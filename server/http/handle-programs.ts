import { documentNow } from '#server/services/agreements/document-now.ts'
import { trailOf } from '#server/services/agreements/agreements.ts'
import * as asking from '#server/services/programs/intakes.ts'
import * as keys from '#server/services/programs/keys.ts'
import * as runs from '#server/services/programs/runs.ts'
import * as starts from '#server/services/programs/starts.ts'
import * as hooks from '#server/services/programs/webhooks.ts'
import * as troubles from '#server/services/programs/troubles.ts'
import * as told from '#server/services/programs/told.ts'
import { sendFile } from './files.ts'
import { calledBy, done, signedIn } from './handlers.ts'
import type { Handlers } from './handlers.ts'

export const programHandlers = {
  keys: async ({ app, ...call }) => keys.listKeys(app, signedIn(call)),
  makeKey: async ({ app, body, ...call }) => keys.makeKey(app, signedIn(call), body),
  rotateKey: async ({ app, params, body, ...call }) =>
    keys.rotateKey(app, signedIn(call), params.id, body.hours),
  revokeKey: async ({ app, params, ...call }) => {
    await keys.revokeKey(app, signedIn(call), params.id)
    return done
  },
  webhooks: async ({ app, ...call }) => hooks.listWebhooks(app, signedIn(call)),
  makeWebhook: async ({ app, body, ...call }) => hooks.makeWebhook(app, signedIn(call), body),
  dropWebhook: async ({ app, params, ...call }) => {
    await hooks.dropWebhook(app, signedIn(call), params.id)
    return done
  },
  deliveries: async ({ app, params, ...call }) => hooks.deliveriesOf(app, signedIn(call), params.id),
  troubles: async ({ app, ...call }) => troubles.troublesOf(app, signedIn(call)),
  tellNow: async ({ app, params, ...call }) => {
    await hooks.tellNow(app, signedIn(call), params.id)
    return done
  },
  startAgain: async ({ app, params, ...call }) => {
    await troubles.startAgain(app, signedIn(call), params.id)
    return done
  },
  tellAgain: async ({ app, params, ...call }) => {
    await hooks.tellAgain(app, signedIn(call), params.id, params.delivery)
    return done
  },
  programTemplates: async ({ app, ...call }) => told.templatesTold(app, calledBy(call).person),
  programTemplate: async ({ app, params, ...call }) =>
    told.templateTold(app, calledBy(call).person, params.id),
  programPackets: async ({ app, ...call }) => told.packetsTold(app, calledBy(call).person),
  programPacket: async ({ app, params, ...call }) => told.packetTold(app, calledBy(call).person, params.id),
  programRecords: async ({ app, params, query }) => told.recordsTold(app, params.kind, query),
  programStart: async ({ app, body, reference, response, ...call }) => {
    const started = await starts.startOne(app, calledBy(call), body, reference)
    response.location(started.at)
    return started
  },
  programStarts: async ({ app, body, reference, ...call }) =>
    starts.startMany(app, calledBy(call), body, reference),
  programStartRun: async ({ app, body, reference, response, ...call }) => {
    const started = await runs.startRunOf(app, calledBy(call), body, reference)
    response.location(started.at)
    return started
  },
  programRun: async ({ app, params, ...call }) => runs.runTold(app, calledBy(call), params.id),
  programStarted: async ({ app, params, ...call }) => starts.readStart(app, calledBy(call), params.id),
  programForms: async ({ app }) => asking.formsTold(app),
  programForm: async ({ app, params }) => asking.formTold(app, params.id),
  programAsk: async ({ app, params, body, reference, response, ...call }) => {
    const asked = await asking.askOne(app, calledBy(call), params.id, body, reference)
    response.location(asked.at)
    return asked
  },
  programAnswer: async ({ app, params, ...call }) => asking.askedTold(app, calledBy(call), params.id),
  programAgreements: async ({ app, query }) => told.agreementsTold(app, query),
  programAgreement: async ({ app, params, ...call }) =>
    told.agreementTold(app, calledBy(call).person, params.id),
  programTrail: async ({ app, params }) => trailOf(app, params.id),
  programDocument: async ({ app, params, response }) => {
    const { bytes, fileName } = await documentNow(app, params.id)
    sendFile(response, bytes, fileName, 'application/pdf', 'inline')
  },
  programSend: async ({ app, params, ...call }) => told.sendTold(app, calledBy(call).person, params.id),
} satisfies Partial<Handlers>
