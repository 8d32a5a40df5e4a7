import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { still } from '#test/support/browser.ts'
import { PHONE, sticksOut } from '#test/support/narrow.ts'
import { openedApp } from '#test/support/opened-app.ts'
import type { Running } from '#test/support/running.ts'

describe('a page of the app on a phone, 390 px wide', () => {
  let running: Running
  let page: Page
  openedApp('narrow', { as: 'Ines Hallow' }, async (all) => {
    ;({ running, page } = all)
    await page.setViewportSize(PHONE)
  })

  for (const path of [
    '/desk',
    '/templates',
    '/templates/library',
    '/templates/packets',
    '/templates/intakes',
    '/records',
    '/records/sheets',
    '/runs',
    '/agreements',
    '/rules',
    '/approvals',
    '/absences',
    '/post-room',
  ])
    it(`${path}: nothing lies beside it`, async () => {
      await page.goto(running.url + path)
      await page.getByRole('heading').first().waitFor()
      await still(page)
      expect(await sticksOut(page)).to.deep.equal([])
    })
})
