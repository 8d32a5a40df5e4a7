import * as answering from '#server/services/intakes/answering.ts'
import * as answers from '#server/services/intakes/answers.ts'
import * as forms from '#server/services/intakes/forms.ts'
import { invite } from '#server/services/intakes/inviting.ts'
import { openForm, saveLink } from '#server/services/intakes/open-links.ts'
import { signInSitting } from '#server/services/intakes/same-sitting.ts'
import { sendFile, uploaded } from './files.ts'
import { done, signedIn } from './handlers.ts'
import type { Handlers } from './handlers.ts'

export const intakeHandlers = {
  intakes: async ({ app }) => forms.listForms(app),
  makeIntake: async ({ app, body, ...call }) => forms.makeForm(app, signedIn(call), body),
  intake: async ({ app, params }) => forms.readForm(app, params.id),
  saveIntake: async ({ app, params, body, ...call }) => forms.saveForm(app, signedIn(call), params.id, body),
  takeIntake: async ({ app, params, ...call }) => {
    await forms.takeOver(app, signedIn(call), params.id)
    return done
  },
  dropIntake: async ({ app, params, ...call }) => {
    await forms.dropForm(app, signedIn(call), params.id)
    return done
  },
  openLink: async ({ app, params, body, ...call }) => openForm(app, signedIn(call), params.id, body),
  saveLink: async ({ app, params, body, ...call }) => {
    await saveLink(app, signedIn(call), params.id, params.link, body)
    return done
  },
  invite: async ({ app, params, body, ...call }) => {
    // The link goes to whoever is asked, and to nobody else.
    const { id } = await invite(app, signedIn(call), params.id, body)
    return { id }
  },
  answers: async ({ app, params, ...call }) => answers.listAnswers(app, signedIn(call), params.id),
  recordAnswers: async ({ app, params, ...call }) =>
    answers.answersOfRecords(app, signedIn(call), [params.id]),
  answersWaiting: async ({ app, ...call }) => answers.waitingAnswers(app, signedIn(call)),
  answer: async ({ app, params, ...call }) => answers.readAnswer(app, signedIn(call), params.id),
  mendAnswer: async ({ app, params, body, ...call }) => {
    await answers.mendAnswer(app, signedIn(call), params.id, body)
    return done
  },
  settleAnswer: async ({ app, params, body, ...call }) => {
    await answers.settleAnswer(app, signedIn(call), params.id, body.take)
    return done
  },
  dropAnswer: async ({ app, params, ...call }) => {
    await answers.dropAnswer(app, signedIn(call), params.id)
    return done
  },
  answerFile: async ({ app, params, response, ...call }) => {
    const { bytes, name } = await answers.answerFile(app, signedIn(call), params.id, params.sha256)
    // From outside: never shown in place, whatever it says it is.
    sendFile(response, bytes, name, 'application/octet-stream', 'attachment')
  },
  form: async ({ app, params }) => answering.readPublic(app, params.token),
  beginAnswer: async ({ app, params, body, address }) =>
    answering.begin(app, params.token, address, body.language),
  keepAnswers: async ({ app, params, body }) => answering.keep(app, params.token, body),
  answerWithFile: async ({ app, params, query, address, request }) =>
    answering.takeFile(app, params.token, { ...query, bytes: uploaded(request.body), address }),
  handInAnswers: async ({ app, params, body, address }) => {
    await answering.handIn(app, params.token, address, body)
    return done
  },
  signAnswer: async ({ app, params, body }) => signInSitting(app, params.token, body.document),
} satisfies Partial<Handlers>
