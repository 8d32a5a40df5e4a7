import { randomUUID } from 'node:crypto'
import { PassThrough } from 'node:stream'
import { and, asc, desc, eq } from 'drizzle-orm'
import type * as v from 'valibot'
import yazl from 'yazl'
import type { Person } from '#contract/person.ts'
import type { OutputKind, outputSchema, outputStart } from '#contract/run.ts'
import { mergeBundle } from '#core/packet/bundle.ts'
import { writeCsv } from '#core/sheet/write.ts'
import { fileName } from '#core/text/pattern.ts'
import { groupWordings } from '#core/wording/group.ts'
import { tellingRows } from '#core/wording/typical.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import type { CombinedPart } from '#server/compose/combine.ts'
import { OUTPUT } from '#core/states/all.ts'
import { moving } from '#server/db/moving.ts'
import { one } from '#server/db/one.ts'
import { agreement, claim, file, person, run, runOutput, runRow } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { conflict, invalid, notFound } from '#server/ground/problem.ts'
import { documentNow } from '#server/services/agreements/document-now.ts'
import { drawBundle } from '#server/services/templates/drawing.ts'
import { bundleOfRun } from '#server/services/templates/editions.ts'
import { exportDocuments, singleDocuments } from '#server/services/agreements/documents.ts'
import { wordedRows } from './runs.ts'
import { resultRows } from './result-sheet.ts'

type Output = typeof runOutput.$inferSelect

const endings: Readonly<Record<OutputKind, readonly [ending: string, mediaType: string]>> = {
  'archive of PDFs': ['.zip', 'application/zip'],
  'archive of DOCX': [', DOCX.zip', 'application/zip'],
  'archive of single documents': [', single documents.zip', 'application/zip'],
  'one PDF': ['.pdf', 'application/pdf'],
  trial: [', trial.pdf', 'application/pdf'],
  'result sheet': [', result.xlsx', 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'],
  'result sheet as CSV': [', result.csv', 'text/csv'],
}

/** Documents that one PDF takes: its making holds them all in memory. */
const MOST_COMBINED = 500
const MOST_TRIED = 200

/** Has something made of the whole run by a worker. */
export async function makeOutput(
  app: App,
  by: Person,
  runId: string,
  { kind, rows }: v.InferOutput<typeof outputStart>,
): Promise<{ id: string }> {
  await requireMay(app, by, 'runs')
  const [found] = await app.db.select().from(run).where(eq(run.id, runId))
  if (!found) throw notFound('run')
  if (found.state === 'checking') throw conflict('The rows are still being checked.')
  const id = randomUUID()
  const chosen = kind === 'trial' ? await trialRows(app, runId, rows) : []
  const made = await madeOf(app, runId)
  if (kind === 'trial' && chosen.length === 0) throw conflict('No row is ready to be tried.')
  if (kind === 'trial' && chosen.length > MOST_TRIED)
    throw invalid(`A trial takes ${MOST_TRIED} rows; ${chosen.length} were asked for.`)
  if (kind === 'archive of single documents' && found.packetEditions.length === 0)
    throw invalid('Agreements of this run are one document each: take the archive of PDFs.')
  if ((kind === 'one PDF' || kind.startsWith('archive')) && made.length === 0)
    throw conflict('No agreement of this run has been made yet.')
  if (kind === 'one PDF' && made.length > MOST_COMBINED)
    throw invalid(`One PDF takes ${MOST_COMBINED} agreements; this run has ${made.length}. Take the archive.`)
  await transaction(app, async ({ db, enqueue, now }) => {
    await db.insert(runOutput).values({
      id,
      runId,
      kind,
      state: 'making',
      total: kind === 'trial' ? chosen.length : kind.startsWith('result') ? 0 : made.length,
      name: `${fileName(found.name)}${endings[kind][0]}`,
      createdAt: now(),
      createdBy: by.id,
    })
    await enqueue('make-output', { outputId: id, rows: chosen })
  })
  return { id }
}

/** The rows of a trial: those asked for, as far as they can be made; else a typical and the longest one of each wording. */
async function trialRows(
  app: App,
  runId: string,
  asked: readonly number[] | undefined,
): Promise<readonly number[]> {
  const rows = await wordedRows(app, runId)
  if (asked) return rows.map(({ row }) => row).filter((row) => asked.includes(row))
  const byRow = new Map(rows.map((row) => [row.row, row]))
  return groupWordings(rows.map(({ row, wording }) => ({ row, key: wording }))).flatMap(({ rows: same }) => {
    const telling = tellingRows(same.map((row) => byRow.get(row)!))!
    return [...new Set([telling.typical, telling.longest])]
  })
}

const madeOf = (app: App, runId: string) =>
  app.db
    .select({
      id: agreement.id,
      fileName: agreement.fileName,
      number: agreement.number,
      name: agreement.name,
      extra: agreement.extra,
    })
    .from(agreement)
    .innerJoin(claim, eq(claim.id, agreement.id))
    .where(eq(claim.runId, runId))
    .orderBy(asc(agreement.number))

/** Job: makes an output. Made again after a crash it gives the same file, stored once. */
export async function fillOutput(app: App, outputId: string, rows: readonly number[]): Promise<void> {
  const [found] = await app.db.select().from(runOutput).where(eq(runOutput.id, outputId))
  if (!found || found.state !== 'making') return
  const told = progress(app, outputId)
  try {
    const fileSha256 = await makers[found.kind](app, found, told, rows)
    await endOutput(app, outputId, 'finish', { fileSha256 })
  } catch (error) {
    app.log.error({ err: error, output: outputId }, 'output could not be made')
    await endOutput(app, outputId, 'fail', {
      problem: 'It could not be made. The cause is in the log; it can be asked for again.',
    })
  }
}

async function endOutput(
  app: App,
  id: string,
  move: 'finish' | 'fail',
  told: { readonly fileSha256: string } | { readonly problem: string },
): Promise<void> {
  const { to, where } = moving(runOutput.state, OUTPUT, move)
  await app.db
    .update(runOutput)
    .set({ state: to, ...told })
    .where(and(eq(runOutput.id, id), where))
}

type Told = (done: number) => Promise<void>
/** Milliseconds between two notes of how far it is. */
const NOTED_EVERY = 400

function progress(app: App, outputId: string): Told {
  let last = 0
  return async (done) => {
    if (Date.now() - last < NOTED_EVERY) return
    last = Date.now()
    await app.db.update(runOutput).set({ done }).where(eq(runOutput.id, outputId))
  }
}

type Maker = (app: App, output: Output, told: Told, rows: readonly number[]) => Promise<string>

const makers: Readonly<Record<OutputKind, Maker>> = {
  'archive of PDFs': (app, output, told) =>
    archive(app, output, told, async (id, name) => [
      { name: `${name}.pdf`, bytes: (await documentNow(app, id)).bytes },
    ]),
  'archive of DOCX': (app, output, told) =>
    archive(app, output, told, async (id, name) => {
      const documents = await exportDocuments(app, id)
      return documents.length === 1
        ? documents.map(({ bytes, ending }) => ({ name: `${name}.${ending}`, bytes }))
        : documents.map((each) => ({ name: `${name}/${each.name}.${each.ending}`, bytes: each.bytes }))
    }),
  'archive of single documents': (app, output, told) =>
    archive(app, output, told, async (id, name) => [
      ...(await singleDocuments(app, id)).map((each) => ({
        name: `${name}/${each.name}.pdf`,
        bytes: each.bytes,
      })),
      // What was signed is the whole: its seal holds for no part of it.
      { name: `${name}/${name}.pdf`, bytes: (await documentNow(app, id)).bytes },
    ]),
  'one PDF': async (app, output, told) => {
    const parts: CombinedPart[] = []
    for (const { id, name, number } of await madeOf(app, output.runId)) {
      parts.push({ pdf: (await documentNow(app, id)).bytes, title: `${number}  ${name}` })
      await told(parts.length)
    }
    return keep(app, output, await app.pages.combine(parts, output.createdAt))
  },
  trial,
  'result sheet': async (app, output) => {
    const { writeXlsx } = await import('#server/convert/sheet/write-xlsx.ts')
    return keep(app, output, await writeXlsx('Result', await resultRows(app, output.runId), output.createdAt))
  },
  'result sheet as CSV': async (app, output) =>
    keep(app, output, Buffer.from(`\ufeff${writeCsv(await resultRows(app, output.runId))}`)),
}

const keep = (app: App, output: Output, bytes: Uint8Array) => app.files.put(bytes, endings[output.kind][1])

interface Entry {
  readonly name: string
  readonly bytes: Uint8Array
}

/** Files of each agreement under its own name; two of the same are told apart by their numbers. One is read at a time. */
async function archive(
  app: App,
  output: Output,
  told: Told,
  entriesOf: (id: string, name: string) => Promise<readonly Entry[]>,
): Promise<string> {
  const zip = new yazl.ZipFile()
  const names = new Set<string>()
  const unique = (name: string, more: string) => {
    const free = names.has(name.toLowerCase()) ? `${name} ${more}` : name
    names.add(free.toLowerCase())
    return free
  }
  const stored = app.files.putStream(zip.outputStream.pipe(new PassThrough()), 'application/zip')
  const options = { compress: false, mtime: output.createdAt }
  const fill = async () => {
    let done = 0
    for (const { id, fileName: name, number, extra } of await madeOf(app, output.runId)) {
      const own = unique(name, number)
      for (const { name: path, bytes } of await entriesOf(id, own))
        zip.addBuffer(Buffer.from(bytes), path, options)
      for (const each of extra)
        zip.addBuffer(Buffer.from(await app.files.get(each.sha256)), `${own}, ${each.name}`, options)
      await told(++done)
    }
    zip.end()
  }
  const [hash] = await Promise.all([stored, fill()])
  return hash
}

/** Pages marked as a trial, that nobody gets: no number is allotted and nothing is kept of them but the file. */
async function trial(app: App, output: Output, told: Told, rows: readonly number[]): Promise<string> {
  const found = one(await app.db.select().from(run).where(eq(run.id, output.runId)))
  const parts: CombinedPart[] = []
  for (const row of rows) {
    const [each] = await app.db
      .select()
      .from(runRow)
      .where(and(eq(runRow.runId, output.runId), eq(runRow.row, row)))
    if (!each) continue
    const bundle = await bundleOfRun(app, found, each.language)
    const { documents } = mergeBundle(bundle, each.changed ?? each.data, 'TRIAL')
    const { pdf } = await drawBundle(app, bundle, documents, {
      proof: false,
      at: output.createdAt,
      mark: 'TRIAL',
    })
    parts.push({ pdf, title: `Row ${row}  ${each.label}` })
    await told(parts.length)
  }
  return keep(app, output, await app.pages.combine(parts, output.createdAt))
}

/** Files of a run, the newest first. */
export async function listOutputs(app: App, runId: string): Promise<v.InferOutput<typeof outputSchema>[]> {
  const found = await app.db
    .select({ output: runOutput, size: file.size, by: person.name })
    .from(runOutput)
    .innerJoin(person, eq(person.id, runOutput.createdBy))
    .leftJoin(file, eq(file.sha256, runOutput.fileSha256))
    .where(eq(runOutput.runId, runId))
    .orderBy(desc(runOutput.createdAt))
    .limit(50)
  const now = app.now()
  return found.map(({ output, size, by }) => ({
    id: output.id,
    kind: output.kind,
    state: output.state,
    done: output.done,
    total: output.total,
    name: output.name,
    size,
    problem: output.problem,
    createdAt: output.createdAt.toISOString(),
    createdBy: by,
    sharedUntil:
      output.expiresAt && output.tokenHash && output.expiresAt > now ? output.expiresAt.toISOString() : null,
  }))
}

export interface StoredOutput {
  readonly name: string
  readonly bytes: Uint8Array
  readonly mediaType: string
}

export async function stored(app: App, output: Output | undefined): Promise<StoredOutput> {
  if (!output?.fileSha256) throw notFound('file')
  return {
    name: output.name,
    bytes: await app.files.get(output.fileSha256),
    mediaType: endings[output.kind][1],
  }
}

export const outputOf = (runId: string, id: string) => and(eq(runOutput.runId, runId), eq(runOutput.id, id))

/** One of them with its bytes. Refused where it is not ready. */
export async function readOutput(app: App, runId: string, id: string): Promise<StoredOutput> {
  const [found] = await app.db.select().from(runOutput).where(outputOf(runId, id))
  return stored(app, found)
}
