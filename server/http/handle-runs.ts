import * as redo from '#server/services/making/redo.ts'
import * as outputs from '#server/services/runs/run-outputs.ts'
import { rowValues } from '#server/services/runs/row-values.ts'
import * as runs from '#server/services/runs/runs.ts'
import * as setup from '#server/services/runs/run-setup.ts'
import { done, signedIn } from './handlers.ts'
import type { Handlers } from './handlers.ts'
import { sendFile, uploaded } from './files.ts'
import { runEvents } from './run-events.ts'

export const runHandlers = {
  runs: async ({ app }) => runs.listRuns(app),
  startRun: async ({ app, body, ...call }) => setup.startRun(app, signedIn(call), body),
  run: async ({ app, params }) => runs.readRun(app, params.id),
  runRows: async ({ app, params }) => runs.runRows(app, params.id),
  wordings: async ({ app, params }) => runs.runWordings(app, params.id),
  rowProof: async ({ app, params, response }) => {
    sendFile(
      response,
      await runs.rowProof(app, params.id, params.row),
      `row ${params.row}.pdf`,
      'application/pdf',
      'inline',
    )
  },
  generate: async ({ app, params, ...call }) => {
    await runs.generate(app, signedIn(call), params.id)
    return done
  },
  pauseRun: async ({ app, params, ...call }) => {
    await runs.pauseRun(app, signedIn(call), params.id)
    return done
  },
  runEvents: async ({ app, params, request, response }) => runEvents(app, params.id, request, response),
  runSetup: async ({ app, params }) => setup.readSetup(app, params.id),
  changeRun: async ({ app, params, body, ...call }) => {
    await setup.changeRun(app, signedIn(call), params.id, body)
    return done
  },
  runFile: async ({ app, params, query, request, ...call }) => {
    await setup.keepRunFile(app, signedIn(call), params.id, query.name, uploaded(request.body))
    return done
  },
  decideRows: async ({ app, params, body, ...call }) => {
    await setup.decideRows(app, signedIn(call), params.id, body)
    return done
  },
  answerRow: async ({ app, params, body, ...call }) => {
    await setup.answerRow(app, signedIn(call), params.id, params.row, body)
    return done
  },
  rowValues: async ({ app, params, query }) => rowValues(app, params.id, query),
  rowChanges: async ({ app, params }) => redo.rowChanges(app, params.id, params.row),
  redoRows: async ({ app, params, body, ...call }) =>
    redo.redoRows(app, signedIn(call), params.id, body.rows),
  tickWording: async ({ app, params, body, ...call }) => {
    await runs.tickWording(app, signedIn(call), params.id, body)
    return done
  },
  cancelRun: async ({ app, params, ...call }) => {
    await runs.cancelRun(app, signedIn(call), params.id)
    return done
  },
  outputs: async ({ app, params }) => outputs.listOutputs(app, params.id),
  makeOutput: async ({ app, params, body, ...call }) =>
    outputs.makeOutput(app, signedIn(call), params.id, body),
  output: async ({ app, params, response }) => {
    const { name, bytes, mediaType } = await outputs.readOutput(app, params.id, params.output)
    sendFile(response, bytes, name, mediaType, 'attachment')
  },
  shareOutput: async ({ app, params, body, ...call }) =>
    outputs.shareOutput(app, signedIn(call), params.id, params.output, body.days),
  endShare: async ({ app, params, ...call }) => {
    await outputs.endShare(app, signedIn(call), params.id, params.output)
    return done
  },
  shared: async ({ app, params, response }) => {
    const { name, bytes, mediaType } = await outputs.sharedOutput(app, params.token)
    sendFile(response, bytes, name, mediaType, 'attachment')
  },
} satisfies Partial<Handlers>
