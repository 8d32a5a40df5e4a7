import { parseCookie } from 'cookie'
import type { Request } from 'express'
import { documentNow } from '#server/services/agreements/document-now.ts'
import { receiveFile, receiveSignature } from '#server/services/signing/handed-in.ts'
import { recordingOfLink } from '#server/services/signing/introduction.ts'
import { printAsParty } from '#server/services/signing/paper.ts'
import { verifyCode, sendCode } from '#server/services/signing/proving.ts'
import { readFlowing, readPicture } from '#server/services/signing/reading.ts'
import { askAsParty } from '#server/services/signing/questions.ts'
import * as signing from '#server/services/signing/signing.ts'
import type { Visitor } from '#server/services/signing/visit.ts'
import type { ExaminedFile } from '#contract/verify.ts'
import { examineFile, sealedByCode } from '#server/services/signing/verifying-files.ts'
import { sendFile, sendPart, uploaded } from './files.ts'
import type { Handlers } from './handlers.ts'

/** Keeps with the browser that its person has shown who they are; of one link only, for it is sent to that link’s address alone. */
const PROOF_COOKIE = 'brevan_shown'
const HALF_DAY = 12 * 3_600_000

const visitor = (call: {
  readonly params: { readonly token: string }
  readonly request: Request
  readonly address: string
}): Visitor => ({
  token: call.params.token,
  proof: parseCookie(call.request.headers.cookie ?? '')[PROOF_COOKIE] ?? null,
  address: call.address,
})

export const signingHandlers = {
  signing: async ({ app, ...call }) => signing.readSigning(app, visitor(call)),
  signingFile: async ({ app, query, request, ...call }) =>
    receiveFile(app, visitor({ request, ...call }), query.name, uploaded(request.body)),
  signingSignature: async ({ app, request, ...call }) =>
    receiveSignature(app, visitor({ request, ...call }), uploaded(request.body)),
  signingDocument: async ({ app, response, ...call }) => {
    const { bytes, fileName } = await documentNow(app, await signing.documentOfLink(app, visitor(call)))
    sendFile(response, bytes, fileName, 'application/pdf', 'inline')
  },
  signingIntroduction: async ({ app, request, response, ...call }) =>
    sendPart(request, response, await recordingOfLink(app, visitor({ request, ...call }))),
  signingPaper: async ({ app, response, ...call }) => {
    const { bytes, name } = await printAsParty(app, visitor(call))
    sendFile(response, bytes, name, 'application/pdf', 'inline')
  },
  signingReading: async ({ app, ...call }) => readFlowing(app, visitor(call)),
  signingPicture: async ({ app, response, ...call }) => {
    const { bytes, mediaType } = await readPicture(app, visitor(call), call.params.file)
    response.setHeader('Content-Security-Policy', "default-src 'none'; style-src 'unsafe-inline'; sandbox")
    response.setHeader('Cache-Control', 'private, max-age=86400')
    response.type(mediaType).end(bytes)
  },
  openSigning: async ({ app, ...call }) => signing.openedByHand(app, visitor(call)),
  consent: async ({ app, ...call }) => signing.consent(app, visitor(call)),
  fillBlanks: async ({ app, body, ...call }) => signing.fillBlanks(app, visitor(call), body.values),
  finishSigning: async ({ app, ...call }) => signing.finish(app, visitor(call)),
  decline: async ({ app, body, ...call }) => signing.decline(app, visitor(call), body.reason),
  examineFile: async ({ app, address, request }) => {
    const examined = await examineFile(app, address, uploaded(request.body))
    return examined as ExaminedFile
  },
  verifyCode: async ({ app, params }) => sealedByCode(app, params.code),
  sendCode: async ({ app, ...call }) => sendCode(app, visitor(call)),
  prove: async ({ app, body, response, ...call }) => {
    const { proof } = await verifyCode(app, visitor(call), body.code)
    response.cookie(PROOF_COOKIE, proof, {
      httpOnly: true,
      sameSite: 'strict',
      secure: app.settings.publicUrl.startsWith('https:'),
      maxAge: HALF_DAY,
      path: `/api/signing/${call.params.token}`,
    })
  },
  chooseLanguage: async ({ app, body, ...call }) => signing.chooseLanguage(app, visitor(call), body.language),
  handOver: async ({ app, body, ...call }) => signing.handOver(app, visitor(call), body),
  askAsParty: async ({ app, body, ...call }) => askAsParty(app, visitor(call), body),
} satisfies Partial<Handlers>
