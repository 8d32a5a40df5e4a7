const SECOND = 1000
const MINUTE = 60 * SECOND
const HOUR = 60 * MINUTE

/** Pauses before something that came to nothing is tried again: growing, and no longer than what somebody waits for. */
const PAUSES = [
  5 * SECOND,
  30 * SECOND,
  2 * MINUTE,
  5 * MINUTE,
  10 * MINUTE,
  20 * MINUTE,
  30 * MINUTE,
  HOUR,
  2 * HOUR,
  4 * HOUR,
]

/** Milliseconds to wait after the so-manieth try, from 1. */
export const pauseAfter = (tries: number): number => PAUSES[Math.min(Math.max(1, tries), PAUSES.length) - 1]!
