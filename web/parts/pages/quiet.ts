let lastKey = -Infinity
window.addEventListener('keydown', () => (lastKey = performance.now()), { capture: true, passive: true })

/** Milliseconds without a key after which nobody is typing. */
const PAUSE = 90

/** Waits while keys are typed, `most` milliseconds at the most: what is heavy and not waited for gives way to the next key. */
export async function quiet(most: number): Promise<void> {
  const end = performance.now() + most
  for (;;) {
    const now = performance.now()
    const left = Math.min(lastKey + PAUSE, end) - now
    if (left <= 0) return
    await new Promise((resolve) => setTimeout(resolve, left))
  }
}
