import { randomUUID } from 'node:crypto'
import type { Agreement } from '#contract/agreement.ts'
import type { Sending } from '#contract/sending.ts'
import type { App } from '#server/app/app.ts'
import { watchSigning } from '#server/services/signing/clock.ts'
import { type Client, eventually } from './client.ts'

// What tests of sending and signing do again and again.

/** The signing link in the newest mail to somebody whose subject fits. */
export const linkIn = (sender: Client, to: string, subject?: RegExp): Promise<string> =>
  eventually(async () => {
    const mails = await sender.call('receivedMails', { query: { search: to } })
    for (const each of mails.filter((one) => !subject || subject.test(one.subject))) {
      const read = await sender.call('receivedMail', { params: { id: each.id } })
      const found = /\/sign\/([\w-]{43})/.exec(read.text)?.[1]
      if (found) return found
    }
    return null
  }, `a signing link for ${to}`)

/** The text of the newest mail to somebody whose subject fits. */
export const mailTo = (sender: Client, to: string, subject: RegExp): Promise<string> =>
  eventually(
    async () => {
      const found = (await sender.call('receivedMails', { query: { search: to } })).find((one) =>
        subject.test(one.subject),
      )
      return found && (await sender.call('receivedMail', { params: { id: found.id } })).text
    },
    `a mail to ${to} about ${String(subject)}`,
  )

/**
 * Makes season agreements, a customer after the other, that nobody has to approve and two sign: cleared. Those that come out
 * otherwise are left.
 */
export async function clearedOnes(sender: Client): Promise<() => Promise<Agreement>> {
  const templateId = (await sender.call('templates')).find(({ name }) => name.startsWith('Season'))!.id
  const { records } = await sender.call('records', { params: { kind: 'customer' } })
  let next = 0
  return async () => {
    for (;;) {
      const { id } = await sender.call('makeOneAgreement', {
        params: { kind: 'customer', id: records[next++]!.id },
        body: { templateId, answers: SEASON_ANSWERS, occasion: randomUUID(), another: true },
      })
      const made = await sender.call('agreement', { params: { id } })
      if (made.state === 'cleared' && made.parties.length === 2) return made
    }
  }
}

/** Sets how an agreement goes out, by a change of what stands; `parties` by their names. */
export async function setUp(
  sender: Client,
  id: string,
  parties: Readonly<Record<string, Partial<Sending['parties'][number]>>>,
  more: Partial<Sending> = {},
): Promise<void> {
  const {
    refusal: _r,
    previews: _p,
    signDays: _d,
    ...now
  } = await sender.call('sendingOf', { params: { id } })
  await sender.call('setSending', {
    params: { id },
    body: { ...now, ...more, parties: now.parties.map((each) => ({ ...each, ...parties[each.name] })) },
  })
}

/** The clock's work at another time than now. */
export const watchAt = (app: App, at: Date): Promise<void> => watchSigning({ ...app, now: () => at })

export const partyOf = (agreement: Agreement, label: string) =>
  agreement.parties.find((each) => each.label === label)!

/** What a season agreement asks for beside its customer; nobody has to approve what is made of it. */
export const SEASON_ANSWERS = {
  season: '2027',
  'bloom.start': '2027-03-20',
  'bloom.end': '2027-04-02',
  first_season: 'no',
  colonies: '120',
  frames: '8',
  price_per_colony: '210',
  payment_days: '30',
} as const

/** Fills in all that is asked of a signer whose link it is, short of signing. */
export async function fillAll(client: Client, token: string, name: string): Promise<void> {
  const { blanks } = await client.call('signing', { params: { token } })
  const values = blanks.flatMap(({ id, kind, required }): (readonly [string, object])[] => {
    if (kind === 'signature' || kind === 'initials') return [[id, { kind: 'typed', text: name }]]
    if (kind === 'number') return [[id, { kind: 'text', text: '12' }]]
    if (kind === 'choice') return [[id, { kind: 'choice', chosen: [0] }]]
    if (kind === 'tick') return [[id, { kind: 'tick' }]]
    return required && kind === 'text' ? [[id, { kind: 'text', text: 'none' }]] : []
  })
  await client.call('fillBlanks', { params: { token }, body: { values: Object.fromEntries(values) } })
}
