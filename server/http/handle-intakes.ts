import * as answering from '#server/services/intakes/answering.ts'
import * as answers from '#server/services/intakes/answers.ts'
import * as forms from '#server/services/intakes/forms.ts'
import { invite } from '#server/services/intakes/inviting.ts'
import { openForm, saveLink } from '#server/services/intakes/open-links.ts'
import { signInSitting } from '#server/services/intakes/same-sitting.ts'
import { sendFile, uploaded } from './files.ts'
import type { Handlers } from './handlers.ts'

export const intakeHandlers = {
  intakes: async ({ app }) => forms.listForms(app),
  makeIntake: async ({ app, person, body }) => forms.makeForm(app, person, body),
  intake: async ({ app, params }) => forms.readForm(app, params.id),
  saveIntake: async ({ app, person, params, body }) => forms.saveForm(app, person, params.id, body),
  takeIntake: async ({ app, person, params }) => forms.takeOver(app, person, params.id),
  dropIntake: async ({ app, person, params }) => forms.dropForm(app, person, params.id),
  openLink: async ({ app, person, params, body }) => openForm(app, person, params.id, body),
  saveLink: async ({ app, person, params, body }) => saveLink(app, person, params.id, params.link, body),
  invite: async ({ app, person, params, body }) => {
    // The link goes to whoever is asked, and to nobody else.
    const { id } = await invite(app, person, params.id, body)
    return { id }
  },
  answers: async ({ app, person, params }) => answers.listAnswers(app, person, params.id),
  recordAnswers: async ({ app, person, params }) => answers.answersOfRecords(app, person, [params.id]),
  answersWaiting: async ({ app, person }) => answers.waitingAnswers(app, person),
  answer: async ({ app, person, params }) => answers.readAnswer(app, person, params.id),
  mendAnswer: async ({ app, person, params, body }) => answers.mendAnswer(app, person, params.id, body),
  settleAnswer: async ({ app, person, params, body }) =>
    answers.settleAnswer(app, person, params.id, body.take),
  dropAnswer: async ({ app, person, params }) => answers.dropAnswer(app, person, params.id),
  answerFile: async ({ app, person, params, response }) => {
    const { bytes, name } = await answers.answerFile(app, person, params.id, params.sha256)
    // From outside: never shown in place, whatever it says it is.
    sendFile(response, bytes, name, 'application/octet-stream', 'attachment')
  },
  form: async ({ app, params }) => answering.readPublic(app, params.token),
  beginAnswer: async ({ app, params, body, address }) =>
    answering.begin(app, params.token, address, body.language),
  keepAnswers: async ({ app, params, body }) => answering.keep(app, params.token, body),
  answerWithFile: async ({ app, params, query, address, request }) =>
    answering.takeFile(app, params.token, { ...query, bytes: uploaded(request.body), address }),
  handInAnswers: async ({ app, params, body, address }) => answering.handIn(app, params.token, address, body),
  signAnswer: async ({ app, params, body }) => signInSitting(app, params.token, body.document),
} satisfies Partial<Handlers>
