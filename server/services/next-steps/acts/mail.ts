import { isEmail } from '#core/outline/coerce.ts'
import { conflict } from '#server/ground/problem.ts'
import { enqueueEmail } from '#server/services/agreements/mails.ts'
import { type Doing, filled } from './following.ts'

/** A mail to somebody who hears of it only now. */
export const mailAct: Doing<'mail'> = {
  inside: async (work, following) => {
    const { id, step, row, file } = following
    const to = filled(following, step.to).trim()
    if (!isEmail(to)) throw conflict(`“${to}” is not an email address.`)
    await enqueueEmail(work, {
      key: `aftermath:${id}`,
      agreementId: row.id,
      to,
      subject: filled(following, step.subject),
      body: {
        greeting: '',
        paragraphs: filled(following, step.text)
          .split(/\n{2,}/)
          .filter((text) => text.trim() !== ''),
        link: null,
        attachment: step.attach ? { name: `${row.fileName}.pdf`, sha256: file.sha256 } : null,
        foot: row.number,
      },
    })
    return { said: `written to ${to}` }
  },
}
