import * as agreements from '#server/services/agreements/agreements.ts'
import { desk } from '#server/services/agreements/desk.ts'
import { decide, noteOpened } from '#server/services/agreements/approvals.ts'
import { readWording, saveWording } from '#server/services/making/by-hand.ts'
import { routeAgain } from '#server/services/making/route-again.ts'
import { exportAgreement, singleDocument } from '#server/services/agreements/documents.ts'
import { evidenceNow } from '#server/services/signing/verifying-files.ts'
import { documentNow } from '#server/services/agreements/document-now.ts'
import { handedIn } from '#server/services/agreements/filled.ts'
import { sendAgreements } from '#server/services/signing/sending.ts'
import { holdByHand } from '#server/services/signing/going.ts'
import { dropMessage, keepMessage, savedMessages } from '#server/services/signing/saved-messages.ts'
import { fillMessage, sendingOfMany, setSendingOfMany } from '#server/services/signing/send-many.ts'
import { answerParty } from '#server/services/signing/questions.ts'
import { handDevice, sendingOf, setSending } from '#server/services/signing/set-sending.ts'
import { runSenderCommand } from '#server/services/signing/sender-commands.ts'
import type { Handlers } from './handlers.ts'
import { DOCX, sendFile, sendPart, uploaded } from './files.ts'
import {
  dropRecording,
  keepRecording,
  keepTranscript,
  ownRecording,
} from '#server/services/signing/introduction.ts'
import { paperOf, printPaper, signOnPaper, takeScan } from '#server/services/signing/paper.ts'

export const agreementHandlers = {
  desk: async ({ app, person }) => desk(app, person),
  agreements: async ({ app, query }) => agreements.listAgreements(app, query),
  agreement: async ({ app, person, params }) => agreements.readAgreement(app, person, params.id),
  agreementDocument: async ({ app, person, params, response }) => {
    await noteOpened(app, person, params.id)
    const { bytes, fileName } = await documentNow(app, params.id)
    sendFile(response, bytes, fileName, 'application/pdf', 'inline')
  },
  agreementEvidence: async ({ app, params, response }) => {
    const { bytes, fileName } = await evidenceNow(app, params.id)
    sendFile(response, bytes, fileName, 'application/json', 'attachment')
  },
  handedIn: async ({ app, params, response }) => {
    const { bytes, name } = await handedIn(app, params.id, params.party, params.blank)
    // Never shown in place: what an outsider handed in is kept, not opened.
    sendFile(response, bytes, name, 'application/octet-stream', 'attachment')
  },
  singleDocument: async ({ app, params, response }) => {
    const { bytes, name } = await singleDocument(app, params.id, params.part)
    sendFile(response, bytes, `${name}.pdf`, 'application/pdf', 'inline')
  },
  agreementDocx: async ({ app, params, query, response }) => {
    const { bytes, name, ending } = await exportAgreement(app, params.id, query.part)
    sendFile(response, bytes, `${name}.${ending}`, ending === 'pdf' ? 'application/pdf' : DOCX, 'attachment')
  },
  agreementWording: async ({ app, params }) => readWording(app, params.id),
  saveWording: async ({ app, person, params, body }) => saveWording(app, person, params.id, body),
  trail: async ({ app, params }) => agreements.trailOf(app, params.id),
  decide: async ({ app, person, params, body }) => decide(app, person, params.id, params.step, body),
  routeAgain: async ({ app, person, params }) => routeAgain(app, person, params.id),
  sendAgreements: async ({ app, person, body }) =>
    sendAgreements(app, person, body.agreements, {
      unread: body.unread,
      at: body.at === null ? null : new Date(body.at),
    }),
  holdAgreement: async ({ app, person, params }) => holdByHand(app, person, params.id),
  sendingOf: async ({ app, person, params }) => sendingOf(app, person, params.id),
  setSending: async ({ app, person, params, body }) => setSending(app, person, params.id, body),
  sendingOfMany: async ({ app, person, body }) => sendingOfMany(app, person, body.agreements),
  setSendingOfMany: async ({ app, person, body }) =>
    setSendingOfMany(app, person, body.agreements, body.common),
  savedMessages: async ({ app, person }) => savedMessages(app, person),
  keepMessage: async ({ app, person, body }) => keepMessage(app, person, body),
  dropMessage: async ({ app, person, params }) => dropMessage(app, person, params.id),
  fillMessage: async ({ app, person, params, body }) => fillMessage(app, person, params.id, body),
  handDevice: async ({ app, person, params }) => handDevice(app, person, params.id, params.party),
  introduction: async ({ app, person, params, request, response }) =>
    sendPart(request, response, await ownRecording(app, person, params.id)),
  keepRecording: async ({ app, person, params, request }) =>
    keepRecording(app, person, params.id, uploaded(request.body)),
  keepTranscript: async ({ app, person, params, body }) =>
    keepTranscript(app, person, params.id, body.transcript),
  dropRecording: async ({ app, person, params }) => dropRecording(app, person, params.id),
  printPaper: async ({ app, person, params, response }) => {
    const { bytes, name } = await printPaper(app, person, params.id, params.party)
    sendFile(response, bytes, name, 'application/pdf', 'inline')
  },
  paperOf: async ({ app, person, params }) => paperOf(app, person, params.id, params.party),
  takeScan: async ({ app, person, params, request }) =>
    takeScan(app, person, params.id, params.party, uploaded(request.body)),
  signOnPaper: async ({ app, person, params }) => signOnPaper(app, person, params.id, params.party),
  takeCourse: async ({ app, person, params, body }) => runSenderCommand(app, person, params.id, body),
  answerParty: async ({ app, person, params, body }) =>
    answerParty(app, person, params.id, params.question, body.answer),
} satisfies Partial<Handlers>
