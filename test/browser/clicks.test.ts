import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { countClicks } from '#test/support/browser.ts'
import { soundValue } from '#test/support/story.ts'
import { openedApp } from '#test/support/opened-app.ts'

/** The most clicks that the main run may cost, from the sheet's file to the mails that are out. */
const MOST = 30

describe('the main run, by as little of the mouse as it takes', () => {
  let page: Page

  openedApp('clicks', { as: 'Ines Hallow' }, (all) => void ({ page } = all))

  /** Mends the value that has the focus, by keys alone; what follows has the focus then. */
  async function mendByKeys(): Promise<void> {
    const place = page.locator('[data-hand] :is(input, select):focus')
    await place.waitFor()
    const label = (await place.getAttribute('aria-label'))!
    const value = soundValue(label)
    const list = (await place.evaluate((element) => element.tagName)) === 'SELECT'
    if (!list) await page.keyboard.press('Control+a')
    await page.keyboard.type(value)
    await page.keyboard.press('Enter')
    await page.getByLabel(label, { exact: true }).waitFor({ state: 'detached' })
  }

  it(`takes fewer than ${MOST} clicks for 240 agreements with 21 rows to mend and nine wordings to read`, async function () {
    this.timeout(240_000)
    const clicks = await countClicks(page)
    await page.getByRole('link', { name: 'Records', exact: true }).click()
    await page.getByLabel('Sheet file').setInputFiles('demo/sheets/bookings-2027.xlsx')
    await page.getByRole('button', { name: 'Set up a run' }).click()
    await page.getByRole('button', { name: 'Check rows' }).click()
    await page.getByRole('tab', { name: /need a hand 21/i }).click()
    await page.locator('[data-hand] input').first().click()
    for (let i = 0; i < 21; i++) await mendByKeys()
    await page.getByText('240 rows ready').first().waitFor()
    await page.getByRole('tab', { name: /^wordings/i }).click()
    const unread = page.getByLabel('I have read this one')
    for (let left = await unread.count(); left > 0; left--) {
      await unread.first().click()
      await unread.nth(left - 1).waitFor({ state: 'detached' })
    }
    await page.getByRole('button', { name: 'Generate 240 agreements' }).click()
    await page.getByText('240 agreements made').waitFor({ timeout: 120_000 })
    await page.getByRole('link', { name: '240 agreements' }).click()
    await page.getByLabel('Select all').click()
    await page.getByRole('button', { name: /^Send \d+/ }).click()
    await page.getByRole('dialog').getByRole('button', { name: 'Send', exact: true }).click()
    await page.getByText(/ sent/).first().waitFor({ timeout: 120_000 })
    expect(clicks()).to.be.below(MOST)
  })
})
