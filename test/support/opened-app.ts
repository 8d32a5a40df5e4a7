import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { type Browser, openBrowser, pictureOf, signIn } from './browser.ts'
import { type Running, startApp } from './running.ts'

/** The whole application with a browser on it. */
export interface Opened {
  readonly running: Running
  readonly browser: Browser
  readonly page: Page
}

/**
 * Opens the application for the tests of a `describe`, and gives it to `take` before the first. Complaints of the browser's
 * console fail the last. `story`: its tests are steps that build on each other; after one that fails the others are
 * skipped, so that one fault is one failure.
 */
export function openedApp(
  name: string,
  options: NonNullable<Parameters<typeof startApp>[1]> & {
    readonly as?: string
    readonly story?: boolean
    readonly complaints?: 'of no matter'
  },
  take: (opened: Opened) => void | Promise<void>,
): void {
  const { as, story, complaints, ...start } = options
  let all: Opened | null = null
  let broken = false
  before(async () => {
    const running = await startApp(name, start)
    const browser = await openBrowser()
    const page = await browser.page()
    all = { running, browser, page }
    if (as) await signIn(page, running.url, as)
    await take(all)
  })
  beforeEach(function () {
    if (story && broken) this.skip()
  })
  afterEach(async function () {
    broken ||= this.currentTest?.state === 'failed'
    if (all) await pictureOf(this.currentTest, all.page)
  })
  after(async () => {
    const said = all?.browser.complaints ?? []
    await all?.browser.close()
    await all?.running.stop()
    if (complaints !== 'of no matter') expect(said, 'complaints of the browser').to.deep.equal([])
  })
}
