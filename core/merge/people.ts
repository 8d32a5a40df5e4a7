import type { SignerRole } from '../document/template.ts'
import type { Context } from '../expression/values/value.ts'
import { isEmail } from '../outline/coerce.ts'
import { peopleOfRole } from './fields.ts'
import type { MergeProblem, Person } from './finished.ts'
import { type ReadyTemplate, roleConditionId } from './prepare.ts'

/** The role of a person's key: of several in one role all but the first have their number behind it (`owner.2`). */
export const roleKey = (role: string): string => role.split('.')[0]!

/** Who signs an agreement, and what is missing about them. */
export interface PeopleOfRecord {
  readonly people: readonly Person[]
  readonly problems: readonly MergeProblem[]
}

/** Who signs an agreement of this record, in the order of the roles, and who is missing or cannot be written to. */
export function peopleOfRecord(template: ReadyTemplate, record: Context): PeopleOfRecord {
  const problems: MergeProblem[] = []
  const say: Say = (field, message, condition) =>
    problems.push({ field, block: null, message, ...(condition ? { condition } : {}) })
  const people = template.content.roles.flatMap((role) => peopleIn(template, role, record, say))
  return { people, problems }
}

type Say = (field: string | null, message: string, condition?: string) => void

function peopleIn(template: ReadyTemplate, role: SignerRole, record: Context, say: Say): readonly Person[] {
  const { key, label, order, fill } = role
  const condition = template.conditions.get(roleConditionId(key))?.evaluate(record)
  if (role.condition && condition !== true) {
    if (condition !== false)
      say(
        null,
        `${label}: whether this role signs cannot be decided; a value is missing.`,
        roleConditionId(key),
      )
    return []
  }
  const found = peopleOfRole(role, record)
  if (found.length === 0) {
    if (!role.optional) say(null, `${label}: nobody is named to sign.`)
    return []
  }
  return found.flatMap((person, i): Person[] => {
    if (!person.full_name && !person.email && role.optional) return []
    const from = (which: 'name' | 'email') => (fill.rule === 'record' ? fill[which] : null)
    if (!person.full_name) say(from('name'), `${label}: nobody is named to sign.`)
    if (!isEmail(person.email)) say(from('email'), `${label}: there is no email address to send to.`)
    return [
      {
        role: i === 0 ? key : `${key}.${i + 1}`,
        label: found.length > 1 ? `${label} ${i + 1}` : label,
        order,
        name: person.full_name,
        email: person.email,
        title: person.title,
        company: person.company,
        phone: person.phone,
      },
    ]
  })
}
