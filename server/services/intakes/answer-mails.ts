import { describeAnswers } from '#core/intake/describe.ts'
import type { AskedForm } from '#core/intake/answers.ts'
import { saidIn, textKey } from '#core/intake/form.ts'
import { speaks } from '#core/languages/all.ts'
import type { Person } from '#contract/person.ts'
import type { Work } from '#server/app/app.ts'
import type { intakeAnswer } from '#server/db/schema.ts'
import { enqueueEmail } from '#server/services/agreements/mails.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'

type AnswerRow = typeof intakeAnswer.$inferSelect

/** Writes what was answered to whoever answered, in their language, and to whoever is responsible for the form; once. */
export async function writeAnswers(
  work: Work,
  answer: AnswerRow,
  asked: AskedForm,
  owner: Person,
): Promise<void> {
  const { name } = await organisationOf(work.db)
  const { form } = asked
  const said = (language: AnswerRow['language']) => {
    const speaker = speaks(language)
    return describeAnswers(asked, answer.answers, speaker)
      .filter(({ text }) => text !== null)
      .map(({ label, text }) => `${label}: ${text}`)
  }
  if (answer.email) {
    const { say, language } = speaks(answer.language)
    const title = saidIn(form, language, textKey.title, form.title)
    await enqueueEmail(work, {
      key: `form-answers:${answer.id}`,
      agreementId: null,
      to: answer.email,
      subject: say('form.mail.subject', { title }),
      body: {
        language,
        greeting: say('mail.greeting', { name: answer.name || answer.email }),
        paragraphs: [say('form.mail.text', { title, from: `${owner.name}, ${name}` }), ...said(language)],
        link: null,
        attachment: null,
        foot: name,
      },
    })
  }
  const who = answer.name || answer.email || 'Somebody'
  await enqueueEmail(work, {
    key: `form-answers-owner:${answer.id}`,
    agreementId: null,
    to: owner.email,
    subject: `${form.title}: answered by ${who}`,
    body: {
      greeting: `${owner.name},`,
      paragraphs: [
        `${who} has answered ${form.title}${answer.linkId ? ' by an open link: nobody has checked who they are' : ''}.`,
        ...said('en'),
      ],
      link: {
        label: 'See the answer',
        url: `${work.settings.publicUrl}/intakes/${answer.formId}/answers/${answer.id}`,
      },
      attachment: null,
      foot: name,
    },
  })
}
