/** Mulberry32: small, seeded, the same everywhere; for making demo data, never for secrets. */
export function seeded(seed: number) {
  let state = seed >>> 0
  const next = (): number => {
    state = (state + 0x6d2b79f5) >>> 0
    let t = state
    t = Math.imul(t ^ (t >>> 15), t | 1)
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61)
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296
  }
  return {
    next,
    /** Whole number from low to high, both included. */
    between: (low: number, high: number): number => low + Math.floor(next() * (high - low + 1)),
    pick: <T>(list: readonly T[]): T => list[Math.floor(next() * list.length)]!,
    shuffle: <T>(list: readonly T[]): T[] => {
      const made = [...list]
      for (let i = made.length - 1; i > 0; i--) {
        const j = Math.floor(next() * (i + 1))
        ;[made[i], made[j]] = [made[j]!, made[i]!]
      }
      return made
    },
  }
}
