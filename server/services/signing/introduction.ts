import { eq } from 'drizzle-orm'
import { RECORDING, recordingOf } from '#core/ceremony/recording.ts'
import type { Person } from '#contract/person.ts'
import { hashOf } from '#core/trail/trail.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { agreement, type Introduction } from '#server/db/schema.ts'
import { conflict, invalid, notFound } from '#server/ground/problem.ts'
import { happened } from '#server/services/agreements/trail.ts'
import { forSender } from './for-sender.ts'
import { refusalOf } from './set-sending.ts'
import type { Agreement } from './readers.ts'
import { must, visitOf, type Visitor } from './visit.ts'

// A word of the sender's that stands before the text; it is no part of the document.

/** What others see of it. */
export const toIntroductionView = ({ introduction }: Pick<Agreement, 'introduction'>) =>
  introduction && { kind: introduction.kind, transcript: introduction.transcript }

/** Bytes that an upload of a recording may have. */
export const LARGEST_RECORDING = RECORDING.bytes.film

async function change(
  app: App,
  by: Person,
  id: string,
  to: (before: Introduction | null) => Introduction | null,
): Promise<void> {
  await transaction(app, async (work) => {
    const { row } = await forSender(work.db, by, id, true)
    const refusal = refusalOf(row)
    if (refusal) throw conflict(refusal)
    if (row.notice) throw conflict('A notice is a mail; a recording has no place in it.')
    const introduction = to(row.introduction)
    await work.db.update(agreement).set({ introduction }).where(eq(agreement.id, id))
    await happened(
      work,
      id,
      by.name,
      introduction
        ? {
            act: 'introduction set',
            detail: { file: introduction.sha256, transcript: hashOf(introduction.transcript) },
          }
        : { act: 'introduction removed', detail: {} },
    )
  })
}

/** Takes in a recording; what was typed of the one before stays until it is changed. */
export async function keepRecording(app: App, by: Person, id: string, bytes: Uint8Array): Promise<void> {
  await requireMay(app, by, 'send')
  const read = recordingOf(bytes)
  if (!read.ok) throw invalid(read.problem)
  const { kind, type } = read
  const sha256 = await app.files.put(bytes, type)
  await change(app, by, id, (before) => ({
    sha256,
    size: bytes.length,
    kind,
    type,
    transcript: before?.transcript ?? '',
  }))
}

/** What is said in it, for those who cannot hear it or do not want to. */
export async function keepTranscript(app: App, by: Person, id: string, transcript: string): Promise<void> {
  await requireMay(app, by, 'send')
  await change(app, by, id, (before) => {
    if (!before) throw conflict('There is no recording.')
    return { ...before, transcript }
  })
}

export const dropRecording = (app: App, by: Person, id: string): Promise<void> =>
  change(app, by, id, () => null)

interface Playable {
  readonly bytes: Uint8Array
  readonly type: string
}

const played = async (app: App, { introduction }: Agreement): Promise<Playable> => {
  if (!introduction) throw notFound('recording')
  return { bytes: await app.files.get(introduction.sha256), type: introduction.type }
}

/** The recording, for whoever sends it. */
export const ownRecording = async (app: App, by: Person, id: string): Promise<Playable> =>
  played(app, (await forSender(app.db, by, id)).row)

/** The recording, for the bearer of a link who may read. */
export async function recordingOfLink(app: App, visitor: Visitor): Promise<Playable> {
  const visit = await visitOf(app, visitor)
  must(visit, 'read')
  return played(app, visit.row)
}
