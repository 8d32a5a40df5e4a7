import * as agreements from '#server/services/agreements/agreements.ts'
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
import { takeCourse } from '#server/services/signing/courses.ts'
import { done, signedIn } from './handlers.ts'
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
  desk: async ({ app, ...call }) => agreements.desk(app, signedIn(call)),
  agreements: async ({ app, query }) => agreements.listAgreements(app, query),
  agreement: async ({ app, params, ...call }) => agreements.readAgreement(app, signedIn(call), params.id),
  agreementDocument: async ({ app, params, response, ...call }) => {
    await noteOpened(app, signedIn(call), params.id)
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
  saveWording: async ({ app, params, body, ...call }) => {
    await saveWording(app, signedIn(call), params.id, body)
    return done
  },
  trail: async ({ app, params }) => agreements.trailOf(app, params.id),
  decide: async ({ app, params, body, ...call }) => {
    await decide(app, signedIn(call), params.id, params.step, body)
    return done
  },
  routeAgain: async ({ app, params, ...call }) => {
    await routeAgain(app, signedIn(call), params.id)
    return done
  },
  sendAgreements: async ({ app, body, ...call }) =>
    sendAgreements(app, signedIn(call), body.agreements, {
      unread: body.unread,
      at: body.at === null ? null : new Date(body.at),
    }),
  holdAgreement: async ({ app, params, ...call }) => {
    await holdByHand(app, signedIn(call), params.id)
    return done
  },
  sendingOf: async ({ app, params, ...call }) => sendingOf(app, signedIn(call), params.id),
  setSending: async ({ app, params, body, ...call }) => setSending(app, signedIn(call), params.id, body),
  sendingOfMany: async ({ app, body, ...call }) => sendingOfMany(app, signedIn(call), body.agreements),
  setSendingOfMany: async ({ app, body, ...call }) =>
    setSendingOfMany(app, signedIn(call), body.agreements, body.common),
  savedMessages: async ({ app, ...call }) => savedMessages(app, signedIn(call)),
  keepMessage: async ({ app, body, ...call }) => {
    await keepMessage(app, signedIn(call), body)
    return done
  },
  dropMessage: async ({ app, params, ...call }) => {
    await dropMessage(app, signedIn(call), params.id)
    return done
  },
  fillMessage: async ({ app, params, body, ...call }) => fillMessage(app, signedIn(call), params.id, body),
  handDevice: async ({ app, params, ...call }) => handDevice(app, signedIn(call), params.id, params.party),
  introduction: async ({ app, params, request, response, ...call }) =>
    sendPart(request, response, await ownRecording(app, signedIn(call), params.id)),
  keepRecording: async ({ app, params, request, ...call }) => {
    await keepRecording(app, signedIn(call), params.id, uploaded(request.body))
    return done
  },
  keepTranscript: async ({ app, params, body, ...call }) => {
    await keepTranscript(app, signedIn(call), params.id, body.transcript)
    return done
  },
  dropRecording: async ({ app, params, ...call }) => {
    await dropRecording(app, signedIn(call), params.id)
    return done
  },
  printPaper: async ({ app, params, response, ...call }) => {
    const { bytes, name } = await printPaper(app, signedIn(call), params.id, params.party)
    sendFile(response, bytes, name, 'application/pdf', 'inline')
  },
  paperOf: async ({ app, params, ...call }) => paperOf(app, signedIn(call), params.id, params.party),
  takeScan: async ({ app, params, request, ...call }) =>
    takeScan(app, signedIn(call), params.id, params.party, uploaded(request.body)),
  signOnPaper: async ({ app, params, ...call }) => {
    await signOnPaper(app, signedIn(call), params.id, params.party)
    return done
  },
  takeCourse: async ({ app, params, body, ...call }) => {
    await takeCourse(app, signedIn(call), params.id, body)
    return done
  },
  answerParty: async ({ app, params, body, ...call }) => {
    await answerParty(app, signedIn(call), params.id, params.question, body.answer)
    return done
  },
} satisfies Partial<Handlers>
