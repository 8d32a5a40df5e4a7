import yazl from 'yazl'
import { pipeline } from 'node:stream/promises'
import * as runs from '#server/services/runs.ts'
import { documentNow } from '#server/services/executing.ts'
import { fileName } from '#core/text/pattern.ts'
import { done, signedIn } from './handlers.ts'
import type { Handlers } from './handlers.ts'
import { sendFile } from './files.ts'
import { runEvents } from './run-events.ts'

export const runHandlers = {
  runs: async ({ app }) => runs.listRuns(app),
  startRun: async ({ app, body, ...call }) =>
    runs.startRun(app, signedIn(call), body.name, body.templateId, body.sheetId),
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
  generate: async ({ app, params }) => {
    await runs.generate(app, params.id)
    return done
  },
  pauseRun: async ({ app, params }) => {
    await runs.pauseRun(app, params.id)
    return done
  },
  runEvents: async ({ app, params, request, response }) => runEvents(app, params.id, request, response),
  runArchive: async ({ app, params, response }) => {
    const [found, files] = await Promise.all([
      runs.readRun(app, params.id),
      runs.archiveFiles(app, params.id),
    ])
    const zip = new yazl.ZipFile()
    response.type('application/zip')
    response.setHeader(
      'Content-Disposition',
      `attachment; filename*=UTF-8''${encodeURIComponent(`${fileName(found.name)}.zip`)}`,
    )
    // One file is read at a time, however many there are.
    const add = async () => {
      const names = new Set<string>()
      for (const { id, fileName: name, number } of files) {
        const { bytes } = await documentNow(app, id)
        const unique = names.has(name) ? `${name} ${number}` : name
        names.add(unique)
        zip.addBuffer(Buffer.from(bytes), `${unique}.pdf`, {
          compress: false,
          mtime: new Date(found.createdAt),
        })
      }
      zip.end()
    }
    await Promise.all([pipeline(zip.outputStream, response), add()])
  },
} satisfies Partial<Handlers>
