import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { violations } from '#test/support/axe.ts'
import { openedApp } from '#test/support/opened-app.ts'
import type { Running } from '#test/support/running.ts'

describe('access (WCAG 2.2 AA by axe-core), light and dark', () => {
  let running: Running
  let page: Page
  openedApp(
    'access',
    { as: 'Ines Hallow', complaints: 'of no matter' },
    (all) => void ({ running, page } = all),
  )

  const views: readonly (readonly [name: string, open: () => Promise<void>])[] = [
    ['desk', async () => void (await page.goto(`${running.url}/desk`))],
    ['templates', async () => void (await page.goto(`${running.url}/templates`))],
    [
      'studio',
      async () => {
        await page.goto(`${running.url}/templates`)
        await page.getByText('Season pollination agreement').click()
        await page.locator('[data-page="1"] canvas').waitFor()
      },
    ],
    ...(['data', 'roles', 'page', 'sending', 'checks', 'cases', 'editions'] as const).map(
      (panel): readonly [string, () => Promise<void>] => [
        `studio, ${panel}`,
        async () => {
          await page.getByRole('tab', { name: panel }).click()
          if (panel === 'data')
            await page
              .getByRole('button', { name: /^Orchard/ })
              .first()
              .click()
          if (panel === 'cases') await page.getByText('as it must be').first().waitFor()
        },
      ],
    ),
    [
      'a condition in the studio',
      async () => {
        await page.getByRole('tab', { name: 'text' }).click()
        await page
          .getByRole('button', { name: /^only where organic/ })
          .first()
          .click()
        await page.getByText(/True for \d+ of 240 rows/).waitFor()
      },
    ],
    [
      'a clause of the library',
      async () => {
        await page.goto(`${running.url}/templates/library`)
        await page.getByRole('button', { name: /^Law/ }).click()
        await page.getByRole('textbox', { name: 'Template text' }).getByText('State of Oregon').waitFor()
      },
    ],
    [
      'a packet',
      async () => {
        await page.goto(`${running.url}/templates/packets`)
        await page.getByRole('button', { name: /Season packet/ }).click()
        await page.getByRole('button', { name: 'Save packet' }).waitFor()
      },
    ],
    [
      'find or do',
      async () => {
        await page.goto(`${running.url}/desk`)
        await page.getByRole('heading', { name: 'Desk' }).waitFor()
        await page.keyboard.press('Control+k')
        await page.getByRole('combobox', { name: 'Find or do' }).fill('fox')
        await page.getByRole('option').first().waitFor()
      },
    ],
    ['imports', async () => void (await page.goto(`${running.url}/records/imports`))],
    ['deals', async () => void (await page.goto(`${running.url}/records/deals`))],
    [
      'a customer',
      async () => {
        await page.goto(`${running.url}/records/customers`)
        await page.getByRole('row').nth(2).click()
        await page.getByRole('button', { name: 'Save' }).waitFor()
      },
    ],
    [
      'sheet',
      async () => {
        await page.goto(`${running.url}/records/sheets`)
        await page.getByText('bookings-2027.xlsx').click()
        await page.getByRole('gridcell', { name: 'Kingsgate Growers' }).waitFor()
        await page.getByRole('button', { name: 'Set up a run' }).click()
      },
    ],
    [
      'set-up of a run',
      async () => {
        await page.getByRole('button', { name: 'Check rows' }).click()
        await page.getByText('219 rows ready, 21 rows need you').first().waitFor()
      },
    ],
    ...(['Wordings 9', 'Need a hand 21', 'All rows 240', 'Files'] as const).map(
      (tab): readonly [string, () => Promise<void>] => [
        `run, ${tab}`,
        async () => {
          await page.getByRole('tab', { name: tab, selected: false }).click()
          await page.getByRole('tab', { name: tab, selected: true }).waitFor()
        },
      ],
    ),
    ['agreements', async () => void (await page.goto(`${running.url}/agreements`))],
    ['rules', async () => void (await page.goto(`${running.url}/rules`))],
    [
      'a rule table',
      async () => {
        await page.goto(`${running.url}/rules`)
        await page.getByText('Season agreements').click()
        await page.getByText(/Nobody is asked where/).waitFor()
      },
    ],
    [
      'a rule table, looking back',
      async () => {
        await page.getByRole('tab', { name: /look back/i }).click()
        await page.getByLabel('Looked back over').waitFor()
      },
    ],
    ['approvals', async () => void (await page.goto(`${running.url}/approvals`))],
    ['absences', async () => void (await page.goto(`${running.url}/absences`))],
    ['post room', async () => void (await page.goto(`${running.url}/post-room`))],
  ]
  for (const colorScheme of ['light', 'dark'] as const)
    for (const [name, open] of views)
      it(`${name}, ${colorScheme}`, async () => {
        await page.emulateMedia({ colorScheme })
        await open()
        expect(await violations(page)).to.deep.equal([])
      })

  it('sign-in', async () => {
    await page.context().clearCookies()
    await page.goto(running.url)
    await page.getByText('The demo’s people').waitFor()
    expect(await violations(page)).to.deep.equal([])
  })
})
