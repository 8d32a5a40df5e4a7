/**
 * A run's states: its rows are being checked, are checked, are being made, or made; making is paused or was cancelled; or
 * the rows cannot be checked at all.
 */
export const RUN_STATES = [
  'checking',
  'checked',
  'generating',
  'paused',
  'cancelled',
  'generated',
  'failed',
] as const
export type RunState = (typeof RUN_STATES)[number]

/** What changes a run’s state. */
export const RUN_MOVES = [
  'shape',
  'read anew',
  'take rows',
  'give up rows',
  'generate',
  'redo',
  'pause',
  'cancel',
  'finish',
] as const
/**
 * shape: change its set-up or what is said of its rows. read anew: its rows are to be checked. take rows, give up rows: the
 * check's end. generate, redo: make what is not made, make changed rows again. finish: nothing is left to make.
 */
export type RunMove = (typeof RUN_MOVES)[number]

type Moves = Readonly<Partial<Record<RunState, RunState>>>

/** Where the rows have been made, or were begun to be, they are checked behind what is shown. */
const BEHIND = { paused: 'paused', cancelled: 'cancelled', generated: 'generated' } as const

/** What each move leads to from each state it can be made in. `finish` after a redo leads back to where that began. */
const MOVES: Readonly<Record<RunMove, Moves>> = {
  shape: { checking: 'checking', checked: 'checked', failed: 'failed', ...BEHIND },
  'read anew': { checking: 'checking', checked: 'checking', failed: 'checking', ...BEHIND },
  'take rows': { checking: 'checked', checked: 'checked', failed: 'checked', ...BEHIND },
  'give up rows': {
    checking: 'failed',
    checked: 'failed',
    failed: 'failed',
    paused: 'failed',
    cancelled: 'failed',
    generated: 'failed',
  },
  generate: { checked: 'generating', paused: 'generating', cancelled: 'generating', generated: 'generating' },
  redo: { checked: 'generating', paused: 'generating', cancelled: 'generating', generated: 'generating' },
  pause: { generating: 'paused' },
  cancel: { generating: 'cancelled', paused: 'cancelled', checked: 'cancelled' },
  finish: { generating: 'generated' },
}

/** The states a move can be made in, each with the one it leads to. */
export const runMoves = (made: RunMove): readonly (readonly [from: RunState, to: RunState])[] =>
  Object.entries(MOVES[made]) as [RunState, RunState][]

/** Where a move leads; null where it cannot be made. */
export const nextRunState = (state: RunState, made: RunMove): RunState | null => MOVES[made][state] ?? null

/** Why a move cannot be made, and what to do. */
export function runRefusal(state: RunState, made: RunMove): string {
  if (made === 'pause') return 'This run is not being made just now.'
  if (made === 'cancel') return 'There is nothing left to cancel in this run.'
  switch (state) {
    case 'generating':
      return 'The agreements are being made. Pause the run first.'
    case 'checking':
      return 'The rows are still being checked.'
    case 'failed':
      return 'The rows could not be checked.'
    default:
      return `A run that is ${state} cannot do this.`
  }
}
