import { nearest } from '../text/nearest.ts'
import type { Directory } from './directory.ts'

/** How a rule names who approves. A person is kept with the post they had, which somebody else may hold after them. */
export type Mention =
  | { readonly kind: 'post'; readonly post: string }
  | { readonly kind: 'person'; readonly id: string; readonly name: string; readonly post: string }
  | { readonly kind: 'team'; readonly team: string }
  | { readonly kind: 'lead'; readonly of: string | null }

/** Those of whom any one approves. */
export type AnyOf = readonly Mention[]

/** Whom a text names, all of them needed and of each any one enough; or what is wrong with it, with the nearest name there is. */
export type ReadApprovers =
  | { readonly ok: true; readonly all: readonly AnyOf[] }
  | { readonly ok: false; readonly problem: string; readonly nearest: string | null }

/** Says that nobody approves: straight to signature, and meant so. */
export const NOBODY = 'nobody'
/** Whoever leads a team of the one who is responsible for the record. */
export const LEAD = 'lead of the owner'
const EVERYONE = /^(?:everyone in|all of) (.+)$/i
const TEAM = /^team (.+)$/i

const same = (a: string, b: string) => a.toLowerCase() === b.toLowerCase()

/** All that may be written, the words of ours first. */
export function approverNames(directory: Directory): readonly string[] {
  const posts = new Set(directory.people.filter(({ left, post }) => !left && post).map(({ post }) => post))
  return [
    NOBODY,
    LEAD,
    ...posts,
    ...directory.people.filter(({ left }) => !left).map(({ name }) => name),
    ...directory.teams.flatMap(({ name }) => [`team ${name}`, `everyone in ${name}`]),
  ]
}

/**
 * Reads who approves: names of posts, people and teams; commas between those who all have to, `or` between those of whom one
 * is enough. `nobody` and `lead of the owner` are words of ours. A name that nobody has is a problem, with the nearest.
 */
export function readApprovers(text: string, directory: Directory): ReadApprovers {
  const written = text.trim()
  if (written === '' || same(written, NOBODY)) return { ok: true, all: [] }
  const all: AnyOf[] = []
  for (const part of written.split(/[,;\n]/)) {
    const found = readAny(part.trim(), directory)
    if (!found.ok) return found
    all.push(...found.all)
  }
  return { ok: true, all }
}

function readAny(part: string, directory: Directory): ReadApprovers {
  const everyone = EVERYONE.exec(part)
  const team = everyone && directory.teams.find(({ name }) => same(name, everyone[1]!))
  if (team) {
    const members = directory.people.filter(({ teams, left }) => !left && teams.includes(team.name))
    return { ok: true, all: members.map((member) => [personMention(member)]) }
  }
  // A post may have the word in its own name.
  const whole = readOne(part, directory)
  if (whole) return { ok: true, all: [[whole]] }
  const any: Mention[] = []
  for (const name of part.split(/ or /i).map((each) => each.trim())) {
    const one = readOne(name, directory)
    if (!one) {
      const like = nearest(name, approverNames(directory))
      return {
        ok: false,
        problem:
          name === ''
            ? 'A name is missing here.'
            : `“${name}” is no post, person or team here.${like ? ` Is “${like}” meant?` : ''}`,
        nearest: like,
      }
    }
    any.push(one)
  }
  return { ok: true, all: [any] }
}

const personMention = ({ id, name, post }: Directory['people'][number]): Mention => ({
  kind: 'person',
  id,
  name,
  post,
})

function readOne(name: string, { people, teams }: Directory): Mention | null {
  if (same(name, LEAD)) return { kind: 'lead', of: null }
  const post = people.find((each) => !each.left && each.post !== '' && same(each.post, name))
  if (post) return { kind: 'post', post: post.post }
  const person = people.find((each) => same(each.name, name))
  if (person) return personMention(person)
  const called = TEAM.exec(name)?.[1] ?? name
  const team = teams.find((each) => same(each.name, called))
  return team ? { kind: 'team', team: team.name } : null
}

/** A mention as it is written. */
export const describeMention = (mention: Mention): string => {
  switch (mention.kind) {
    case 'post':
      return mention.post
    case 'person':
      return mention.name
    case 'team':
      return `team ${mention.team}`
    case 'lead':
      return LEAD
  }
}

/** Several of whom one is enough, in words. */
export const describeAnyOf = (any: AnyOf): string => any.map(describeMention).join(' or ')
