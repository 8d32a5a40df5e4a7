import Mocha from 'mocha'

/**
 * How many times as long is waited where suites share a machine (`TEST_PATIENCE`; the whole run sets it): what comes late there is no
 * fault, and what never comes is told all the same.
 */
export const PATIENCE = Number(process.env['TEST_PATIENCE'] ?? 1)

// Tests and hooks set their time limits by their context.
const { timeout } = Mocha.Context.prototype as {
  readonly timeout: (this: Mocha.Context, ms?: number | string) => unknown
}
Object.defineProperty(Mocha.Context.prototype, 'timeout', {
  value(this: Mocha.Context, ms?: number | string) {
    return timeout.call(this, typeof ms === 'number' ? ms * PATIENCE : ms)
  },
})
