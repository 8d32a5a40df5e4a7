import { type StateOf, stateTable } from './state-table.ts'

/** An approval. `to come`: earlier ones are asked for first. `fallen`: counts no more, for what it rested on has changed. */
export const STEP = stateTable({
  states: ['to come', 'waiting', 'approved', 'returned', 'fallen'],
  // Kept from a round before, it is approved from the start.
  begins: ['to come', 'waiting', 'approved'],
  moves: {
    open: { from: ['to come'], to: 'waiting' },
    approve: { from: ['waiting'], to: 'approved' },
    return: { from: ['waiting'], to: 'returned' },
    fall: { from: ['to come', 'waiting'], to: 'fallen' },
  },
})
/** One of its states. */
export type StepState = StateOf<typeof STEP>

/** What somebody outside answers on an intake form, and what becomes of it. */
export const ANSWER = stateTable({
  states: ['begun', 'handed in', 'made', 'needs a hand', 'put aside'],
  begins: ['begun'],
  moves: {
    'hand in': { from: ['begun'], to: 'handed in' },
    make: { from: ['handed in'], to: 'made' },
    'ask for a hand': { from: ['handed in'], to: 'needs a hand' },
    mend: { from: ['needs a hand'], to: 'handed in' },
    'put aside': { from: ['begun', 'handed in', 'needs a hand', 'put aside'], to: 'put aside' },
  },
})
/** One of its states. */
export type AnswerState = StateOf<typeof ANSWER>

/** What a program asked to be started. */
export const START = stateTable({
  states: ['taken', 'made', 'refused'],
  begins: ['taken'],
  moves: {
    make: { from: ['taken'], to: 'made' },
    refuse: { from: ['taken'], to: 'refused' },
    again: { from: ['refused'], to: 'taken' },
  },
})
/** One of its states. */
export type StartState = StateOf<typeof START>

/** An event that a webhook is to be told. */
export const DELIVERY = stateTable({
  states: ['waiting', 'told', 'given up'],
  begins: ['waiting'],
  moves: {
    tell: { from: ['waiting'], to: 'told' },
    'give up': { from: ['waiting'], to: 'given up' },
    again: { from: ['waiting', 'told', 'given up'], to: 'waiting' },
  },
})
/** One of its states. */
export type DeliveryState = StateOf<typeof DELIVERY>

/** A step of what follows an agreement. */
export const FOLLOWING = stateTable({
  states: ['waiting', 'done', 'skipped', 'failed'],
  begins: ['waiting'],
  moves: {
    do: { from: ['waiting'], to: 'done' },
    skip: { from: ['waiting'], to: 'skipped' },
    fail: { from: ['waiting'], to: 'failed' },
    again: { from: ['waiting', 'failed'], to: 'waiting' },
    leave: { from: ['waiting', 'failed'], to: 'skipped' },
  },
})
/** One of its states. */
export type FollowingState = StateOf<typeof FOLLOWING>

/** A file of a whole run. */
export const OUTPUT = stateTable({
  states: ['making', 'ready', 'failed'],
  begins: ['making'],
  moves: {
    finish: { from: ['making'], to: 'ready' },
    fail: { from: ['making'], to: 'failed' },
  },
})
/** One of its states. */
export type OutputState = StateOf<typeof OUTPUT>
