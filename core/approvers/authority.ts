import { absenceOn, type Colleague, type Directory } from './directory.ts'
import type { AnyOf, Mention } from './mention.ts'

/** Somebody who may decide a step: by themselves, or for another who is away. */
export interface Decider {
  readonly id: string
  readonly name: string
  /** Whom they stand in for. */
  readonly standsInFor: string | null
}

/** What a step asks, and who may have no say in it. */
export interface AskedOf {
  readonly who: AnyOf
  /** Somebody whom the step was handed to, besides. */
  readonly handedTo?: string | null | undefined
  /** Whoever shaped the agreement: none of them decides it, nor does anybody in their stead. */
  readonly shapedBy: readonly string[]
}

/**
 * Who may decide on a day (ISO 8601, the organisation's calendar), each once, those asked themselves before stand-ins. Empty: a
 * hole, which somebody has to mend.
 *
 * Nobody decides their own, not through a team and not as another's stand-in; and nobody stands in for one whose own it is.
 * Stand-ins who are away themselves hand it on; a circle of them ends where it began.
 */
export function decidersOf(asked: AskedOf, directory: Directory, day: string): readonly Decider[] {
  const people = new Map(directory.people.map((each) => [each.id, each]))
  const shaped = new Set(asked.shapedBy)
  const deciders = new Map<string, Decider>()
  const handed = asked.handedTo ? people.get(asked.handedTo) : undefined
  const asks = [
    ...asked.who.flatMap((mention) => holders(mention, directory)),
    ...(handed && !handed.left ? [handed] : []),
  ].filter((person) => person.approves && !shaped.has(person.id))
  for (const person of asks)
    if (!absenceOn(person, day))
      deciders.set(person.id, { id: person.id, name: person.name, standsInFor: null })
  for (const person of asks) {
    const standIn = standInOf(person, people, day)
    if (standIn && standIn.id !== person.id && !shaped.has(standIn.id) && !deciders.has(standIn.id))
      deciders.set(standIn.id, { id: standIn.id, name: standIn.name, standsInFor: person.name })
  }
  return [...deciders.values()]
}

/** Those whom a mention names now. */
function holders(mention: Mention, { people, teams }: Directory): readonly Colleague[] {
  const there = people.filter(({ left }) => !left)
  switch (mention.kind) {
    case 'post':
      return there.filter(({ post }) => post === mention.post)
    case 'person': {
      const found = there.find(({ id }) => id === mention.id)
      // Whoever left is replaced by those who hold the post now.
      return found ? [found] : there.filter(({ post }) => post !== '' && post === mention.post)
    }
    case 'team':
      return there.filter((each) => each.teams.includes(mention.team))
    case 'lead': {
      const owner = people.find(({ id }) => id === mention.of)
      const leads = teams.filter(({ name }) => owner?.teams.includes(name)).map(({ lead }) => lead)
      return there.filter(({ id }) => leads.includes(id))
    }
  }
}

/** Whether anybody at all could decide for a mention, were they here and had no part in it. Of a lead that is not known yet. */
export const mayAnybody = (mention: Mention, directory: Directory): boolean =>
  mention.kind === 'lead' || holders(mention, directory).some(({ approves }) => approves)

/** Who decides for somebody who is away: the first down the line who is there. Null: nobody, or whoever asks is not away. */
function standInOf(person: Colleague, people: ReadonlyMap<string, Colleague>, day: string): Colleague | null {
  const passed = new Set<string>()
  let at: Colleague | undefined = person
  while (at && !passed.has(at.id)) {
    passed.add(at.id)
    const away = absenceOn(at, day)
    if (!away && !at.left && at.id !== person.id) return at.approves ? at : null
    if (!away) return null
    at = away.standIn === null ? undefined : people.get(away.standIn)
  }
  return null
}

/** Somebody’s stand-in who would be handed their own again, over days on which all of them are away; null: no circle. */
export function circleOfStandIns(
  person: string,
  absence: { readonly from: string; readonly to: string; readonly standIn: string | null },
  directory: Directory,
): readonly string[] | null {
  const people = new Map(directory.people.map((each) => [each.id, each]))
  const visit = (
    id: string | null,
    from: string,
    to: string,
    names: readonly string[],
  ): readonly string[] | null => {
    if (id === null || from > to) return null
    const at = people.get(id)
    if (!at) return null
    if (id === person) return [...names, at.name]
    if (names.includes(at.name)) return null
    for (const away of at.absences) {
      const found = visit(away.standIn, away.from > from ? away.from : from, away.to < to ? away.to : to, [
        ...names,
        at.name,
      ])
      if (found) return found
    }
    return null
  }
  return visit(absence.standIn, absence.from, absence.to, [])
}
