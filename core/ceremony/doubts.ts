import { isEmail } from '../outline/coerce.ts'
import { type Check, hasToAct, type PartyKind, type Way } from './parties.ts'

/** A party as far as an address is looked at. */
export interface Addressed {
  readonly kind: PartyKind
  readonly name: string
  readonly email: string
  readonly phone: string
  readonly check: Check
  readonly linkBy?: Way | undefined
}

/** ITU-T E.164: a plus, a country’s code, at most 15 digits in all; spaces and hyphens between them are nobody’s mistake. */
export const isPhone = (phone: string): boolean => /^\+[1-9]\d{6,14}$/.test(phone.replace(/[\s().-]/g, ''))

/** A number without the signs that only group its digits. */
export const plainPhone = (phone: string): string => phone.replace(/[\s().-]/g, '')

/** What keeps a party from being written to; null: nothing does. */
export function addressFault({ name, email, phone, check, linkBy }: Addressed): string | null {
  if (!email) return `${name}: there is no email address.`
  if (!isEmail(email)) return `${name}: “${email}” is not an email address.`
  if (check === 'text code' && !isPhone(phone))
    return `${name}: a code by text needs a phone number with its country, such as +1 541 555 0100.`
  if (linkBy === 'text' && !isPhone(phone))
    return `${name}: a link by text needs a phone number with its country, such as +1 541 555 0100.`
  return null
}

/** What may well be a mistake about a party, to be looked at before it goes; it can go all the same. */
export function doubtsAbout(party: Addressed, others: readonly Addressed[]): readonly string[] {
  const fault = addressFault(party)
  if (fault) return [fault]
  const same = others.filter(
    (each) => hasToAct(each) && each.email.toLowerCase() === party.email.toLowerCase(),
  )
  return [
    ...(same.length && hasToAct(party)
      ? [
          `${same.map(({ name }) => name).join(' and ')} has the same email address: one person could sign for both.`,
        ]
      : []),
    ...(party.check === 'text code' && party.linkBy === 'text'
      ? ['The code goes to the same phone as the link: it shows little more than the link does.']
      : []),
    ...(party.check === 'mail code' && party.linkBy !== 'text'
      ? ['The code goes to the same email address as the link: it shows little more than the link does.']
      : []),
  ]
}
