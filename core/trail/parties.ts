import type { TrailEntry } from './trail.ts'

/** Acts that concern the parties, in the words the evidence pages have for them. All others are the sender's own. */
const TOLD: ReadonlyMap<string, string> = new Map([
  ['sent', 'sent for signature'],
  ['sent unread', 'sent for signature'],
  ['invited', 'invited to sign'],
  ['opened', 'opened the document'],
  ['agreed to sign electronically', 'agreed to sign electronically'],
  ['signed', 'signed'],
  ['handed over', 'handed the signature over'],
  ['declined', 'declined to sign'],
])

/** What the parties may read of a trail; who approved what, and how it was read before it went out, is not theirs. */
export const forParties = (
  entries: readonly TrailEntry[],
): readonly Pick<TrailEntry, 'seq' | 'at' | 'actor' | 'act' | 'hash'>[] =>
  entries.flatMap(({ seq, at, actor, act, hash }) => {
    const told = TOLD.get(act)
    return told === undefined ? [] : [{ seq, at, actor, act: told, hash }]
  })
