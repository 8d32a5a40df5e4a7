import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type BrowserContext, chromium, type Page } from 'playwright-core'
import { PATIENCE } from './patience.ts'

export interface Browser {
  readonly context: BrowserContext
  /** A page whose console warnings and errors, and unhandled failures, are gathered in `complaints`. */
  page(): Promise<Page>
  readonly complaints: string[]
  close(): Promise<void>
}

/** With TEST_PICTURES set to a folder, what was on the screen when a test failed is kept there. */
export async function pictureOf(test: { state?: string | undefined; title: string } | undefined, page: Page) {
  const folder = process.env['TEST_PICTURES']
  if (folder && test?.state === 'failed')
    await page.screenshot({ path: `${folder}/${test.title.slice(0, 30)}.png` })
}

/** Milliseconds without a change of the page after which it is as it will stay, and the most that is waited for that. */
const [STILL, MOST] = [250, 8000]

/** Waits until nothing on the page changes any more. */
export const still = (page: Page): Promise<void> =>
  page.evaluate(
    ([calm, most]) =>
      // No function has a name here: what is sent to the page would not know the one the compiler gives it.
      new Promise<void>((resolve) => {
        let timer = setTimeout(resolve, calm)
        setTimeout(resolve, most)
        new MutationObserver(() => {
          clearTimeout(timer)
          timer = setTimeout(resolve, calm)
        }).observe(document.body, { subtree: true, childList: true, attributes: true, characterData: true })
      }),
    [STILL, MOST] as const,
  )

/** Signs in as one of the demo’s people. */
export async function signIn(page: Page, url: string, name: string): Promise<void> {
  await page.goto(url)
  await page.getByRole('button', { name }).click()
  await page.getByRole('navigation', { name: 'Areas' }).waitFor()
}

/**
 * Counts what a hand does with the mouse on a page: clicks, and two for each choice from a list or of a file, which are
 * opened and chosen from. Clicks that keys make are none.
 */
export async function countClicks(page: Page): Promise<() => number> {
  let clicks = 0
  await page.exposeFunction('counted', (more: number) => void (clicks += more))
  const count = () => {
    const { counted } = window as unknown as { counted: (more: number) => void }
    addEventListener('click', (event) => event.isTrusted && event.detail > 0 && counted(1), true)
    addEventListener(
      'change',
      (event) => {
        const chosen = event.target as HTMLElement
        if (!event.isTrusted && (chosen.tagName === 'SELECT' || chosen.matches('[type=file]'))) counted(2)
      },
      true,
    )
  }
  await page.addInitScript(count)
  await page.evaluate(count)
  return () => clicks
}

/** Debian's Chromium, headless, on a profile of its own; TEST_SLOWNESS=4 makes its pages four times slower. */
export async function openBrowser(
  options: { width?: number; height?: number; density?: number } = {},
): Promise<Browser> {
  const profile = await mkdtemp(join(tmpdir(), 'brevan-profile-'))
  const context = await chromium.launchPersistentContext(profile, {
    executablePath: '/usr/bin/chromium',
    headless: true,
    viewport: { width: options.width ?? 1280, height: options.height ?? 800 },
    ...(options.density ? { deviceScaleFactor: options.density } : {}),
    reducedMotion: 'reduce',
    acceptDownloads: true,
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      // A microphone and a camera of the browser’s own, for recordings.
      '--use-fake-device-for-media-stream',
      '--use-fake-ui-for-media-stream',
    ],
  })
  context.setDefaultTimeout(20_000 * PATIENCE)
  const complaints: string[] = []
  const watch = (page: Page) => {
    page.on('console', (message) => {
      // The browser itself reports every answer of 400 and above as an error; refusals are part of the work.
      if (['warning', 'error'].includes(message.type()) && !/Failed to load resource/.test(message.text()))
        complaints.push(`${message.type()}: ${message.text()}`)
    })
    page.on('pageerror', (error) => complaints.push(`unhandled: ${error.message}`))
  }
  context.on('page', watch)
  context.pages().forEach(watch)
  const slowness = Number(process.env['TEST_SLOWNESS'] ?? 1)
  return {
    context,
    complaints,
    async page() {
      const page = await context.newPage()
      if (slowness > 1)
        await (await context.newCDPSession(page)).send('Emulation.setCPUThrottlingRate', { rate: slowness })
      return page
    },
    async close() {
      await context.close()
      await rm(profile, { recursive: true, force: true })
    },
  }
}
