import { endShare, sharedOutput, shareOutput } from '#server/services/runs/shared-outputs.ts'
import * as redo from '#server/services/making/redo.ts'
import * as outputs from '#server/services/runs/run-outputs.ts'
import { rowValues } from '#server/services/runs/row-values.ts'
import * as runs from '#server/services/runs/runs.ts'
import * as setup from '#server/services/runs/run-setup.ts'
import type { Handlers } from './handlers.ts'
import { sendFile, uploaded } from './files.ts'
import { runEvents } from './run-events.ts'

export const runHandlers = {
  runs: async ({ app }) => runs.listRuns(app),
  startRun: async ({ app, person, body }) => setup.startRun(app, person, body),
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
  generate: async ({ app, person, params }) => runs.generate(app, person, params.id),
  pauseRun: async ({ app, person, params }) => runs.pauseRun(app, person, params.id),
  runEvents: async ({ app, params, request, response }) => runEvents(app, params.id, request, response),
  runSetup: async ({ app, params }) => setup.readSetup(app, params.id),
  changeRun: async ({ app, person, params, body }) => setup.changeRun(app, person, params.id, body),
  runFile: async ({ app, person, params, query, request }) =>
    setup.keepRunFile(app, person, params.id, query.name, uploaded(request.body)),
  decideRows: async ({ app, person, params, body }) => setup.decideRows(app, person, params.id, body),
  answerRow: async ({ app, person, params, body }) =>
    setup.answerRow(app, person, params.id, params.row, body),
  rowValues: async ({ app, params, query }) => rowValues(app, params.id, query),
  rowChanges: async ({ app, params }) => redo.rowChanges(app, params.id, params.row),
  redoRows: async ({ app, person, params, body }) => redo.redoRows(app, person, params.id, body.rows),
  tickWording: async ({ app, person, params, body }) => runs.tickWording(app, person, params.id, body),
  cancelRun: async ({ app, person, params }) => runs.cancelRun(app, person, params.id),
  outputs: async ({ app, params }) => outputs.listOutputs(app, params.id),
  makeOutput: async ({ app, person, params, body }) => outputs.makeOutput(app, person, params.id, body),
  output: async ({ app, params, response }) => {
    const { name, bytes, mediaType } = await outputs.readOutput(app, params.id, params.output)
    sendFile(response, bytes, name, mediaType, 'attachment')
  },
  shareOutput: async ({ app, person, params, body }) =>
    shareOutput(app, person, params.id, params.output, body.days),
  endShare: async ({ app, person, params }) => endShare(app, person, params.id, params.output),
  shared: async ({ app, params, response }) => {
    const { name, bytes, mediaType } = await sharedOutput(app, params.token)
    sendFile(response, bytes, name, mediaType, 'attachment')
  },
} satisfies Partial<Handlers>
