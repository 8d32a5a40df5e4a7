import type { Person } from '#contract/person.ts'
import type { AgreementState } from '#core/agreement/states.ts'
import { MOST_WRONG } from '#core/ceremony/parties.ts'
import { concerns, courseOf, coursesNow } from '#core/ceremony/sender-commands.ts'
import type { agreement, party, partyQuestion, question } from '#server/db/schema.ts'
import { type Authority, decidersNow } from './deciding.ts'
import type { filledBlanks } from './filled.ts'
import { isOpen, type Step } from './routes.ts'

// What is told of an agreement's approvals, parties and questions.

type Row = typeof agreement.$inferSelect
type Names = ReadonlyMap<string, string>

/** An instant as ISO 8601; null stays null. */
export const iso = (date: Date | null): string | null => date?.toISOString() ?? null

/** Who may decide a step now, by name; `mine`: whoever asks may, `as` whom. Nobody: it is a hole. */
function whoDecides(authority: Authority | null, row: Row, each: Step, by: Person) {
  if (authority === null || !isOpen(each)) return { mine: false, standsInFor: null, deciders: [] }
  const deciders = decidersNow(authority, each, row)
  const as = deciders.find(({ id }) => id === by.id)
  return {
    mine: each.state === 'waiting' && as !== undefined,
    standsInFor: as?.standsInFor ?? null,
    deciders: deciders.map(({ name, standsInFor }) => (standsInFor ? `${name} for ${standsInFor}` : name)),
  }
}

/** An approval, with who may decide it now. `present`: it is of the latest round. */
export const toStepView = (
  each: Step,
  about: {
    readonly row: Row
    readonly by: Person
    readonly authority: Authority | null
    readonly people: Names
    readonly present: boolean
  },
) => ({
  id: each.id,
  approver: each.approver,
  reason: each.reason,
  state: each.state,
  since: each.since.toISOString(),
  decidedAt: iso(each.decidedAt),
  decidedBy: each.decidedBy && (about.people.get(each.decidedBy) ?? ''),
  note: each.note,
  ...whoDecides(about.authority, about.row, each, about.by),
  present: about.present,
  order: each.order,
  dueAt: iso(each.dueAt),
  reasons: each.reasons.map((reason) => ({ ...reason })),
  decidedFor: each.decidedFor,
  handedTo: each.handedTo && (about.people.get(each.handedTo) ?? ''),
  kept: each.keptFrom !== null,
  escalated: each.escalatedAt !== null,
})

/** A question about the agreement, with its answer. */
export const toQuestionView = (each: typeof question.$inferSelect, people: Names) => ({
  id: each.id,
  step: each.stepId,
  text: each.text,
  askedBy: people.get(each.askedBy) ?? '',
  askedAt: each.askedAt.toISOString(),
  answer: each.answer,
  answeredBy: each.answeredBy && (people.get(each.answeredBy) ?? ''),
  answeredAt: iso(each.answeredAt),
})

/** A party, with how its emails arrived and what the sender can do about it. */
export const toPartyView = (
  each: typeof party.$inferSelect,
  about: {
    readonly state: AgreementState
    readonly facts: Parameters<typeof coursesNow>[1]
    readonly mails: readonly {
      readonly to: string
      readonly at: Date | null
      readonly sentAt: Date | null
      readonly problem: string | null
    }[]
    readonly filled: Awaited<ReturnType<typeof filledBlanks>>
  },
) => ({
  id: each.id,
  label: each.label,
  order: each.order,
  name: each.name,
  email: each.email,
  title: each.title,
  kind: each.kind,
  check: each.check,
  language: each.language,
  phone: each.phone,
  linkBy: each.linkBy,
  message: each.message,
  mayDecline: each.mayDecline,
  mayHandOver: each.mayHandOver,
  copyNow: each.copyNow,
  paperBy: each.paper?.by ?? null,
  reason: each.reason,
  locked: each.wrong >= MOST_WRONG,
  undelivered: about.mails.find(({ to, at }) => to === each.email && at)?.problem ?? null,
  arrivedAt: iso(about.mails.find(({ to }) => to === each.email)?.sentAt ?? null),
  courses: coursesNow(about.state, about.facts).filter(
    (name) => courseOf(name).of === 'party' && concerns(name, each),
  ),
  writtenAt: iso(each.writtenAt),
  invitedAt: iso(each.invitedAt),
  openedAt: iso(each.openedAt),
  signedAt: iso(each.signedAt),
  declinedAt: iso(each.declinedAt),
  filled: [...(about.filled.get(each.id) ?? [])],
})

/** A question of a party's, with its answer. */
export const toPartyQuestionView = (
  {
    found,
    name,
    label,
  }: {
    readonly found: typeof partyQuestion.$inferSelect
    readonly name: string
    readonly label: string
  },
  people: Names,
) => ({
  id: found.id,
  name,
  label,
  passage: found.passage,
  text: found.text,
  askedAt: found.askedAt.toISOString(),
  answer: found.answer,
  answeredBy: found.answeredBy && (people.get(found.answeredBy) ?? ''),
  answeredAt: iso(found.answeredAt),
})
