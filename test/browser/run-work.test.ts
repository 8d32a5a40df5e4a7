import { expect } from 'chai'
import type { Page } from 'playwright-core'
import type { Browser } from '#test/support/browser.ts'
import { openedApp } from '#test/support/opened-app.ts'
import type { Running } from '#test/support/running.ts'

describe('a run of colony sales and its signing on a phone, through the real interface', () => {
  let running: Running
  let browser: Browser
  let page: Page
  let runUrl = ''

  const tab = (name: string | RegExp) => page.getByRole('tab', { name }).click()
  const hands = () => page.getByRole('region', { name: 'Rows that need a hand' })

  openedApp(
    'run_browser',
    { as: 'Ines Hallow', story: true },
    (all) => void ({ running, browser, page } = all),
  )

  it('asks about customers that stand twice, with nothing to fill in, and takes one answer for all', async () => {
    await page.goto(`${running.url}/records/sheets`)
    await page.getByText('colony-sales-2027.csv').click()
    expect(await page.getByLabel(/unlike their column/).count()).to.equal(0)
    await page.getByRole('button', { name: 'Set up a run' }).click()
    await page.getByLabel('Name of the run').fill('Sales')
    await page.getByRole('button', { name: 'Check rows' }).click()
    await page.getByText('6 rows ready, 12 rows need you').first().waitFor()
    runUrl = page.url().replace(/\?.*/, '')
    await tab(/need a hand/i)
    await hands().getByText('“Fennel Bottom Farm” stands in row 2 too.').first().waitFor()
    expect(await hands().locator('input').count()).to.equal(0)
    await hands().getByRole('button', { name: 'leave out' }).last().click()
    await page.getByText('6 rows ready, 11 rows need you').first().waitFor()
    await page.getByRole('button', { name: 'Make them anyway' }).click()
    await page.getByText('17 rows ready').first().waitFor()
    await page.getByText('No row needs a hand').waitFor()
  })

  it('keeps a row that was left out in sight, with the reason, and finds rows by their words', async () => {
    await tab(/all rows/i)
    const table = page.getByRole('table')
    await table.getByRole('row').filter({ hasText: 'Left out by hand.' }).waitFor()
    await page.getByLabel('Search').last().fill('Copperbeech')
    await table.getByRole('row').filter({ hasText: 'Fennel' }).first().waitFor({ state: 'detached' })
    expect(await table.getByRole('row').filter({ hasText: 'Copperbeech' }).count()).to.equal(3)
    await page.getByLabel('Search').last().fill('')
  })

  it('has cards of its wordings, each told by what sets it apart, its typical and its longest row shown', async () => {
    await tab(/^wordings/i)
    await page.getByText('the standard wording').waitFor()
    await page.getByText('Payment in advance').first().waitFor()
    await page
      .getByRole('button', { name: /^proof of the longest/ })
      .last()
      .click()
    await page.getByRole('region', { name: 'Proof' }).locator('canvas').first().waitFor()
    const unread = page.getByLabel('I have read this one')
    for (let left = await unread.count(); left > 0; left--) {
      await unread.first().click()
      await page.waitForFunction(
        (open) => document.body.innerText.split('I have read this one').length - 1 < open,
        left,
      )
    }
    await page.getByRole('button', { name: 'Generate 17 agreements' }).click()
    await page.getByText('17 agreements made').first().waitFor({ timeout: 60_000 })
  })

  it('gives a trial, and a file by a link that anyone may follow until somebody ends it', async () => {
    await tab('files')
    await page.getByRole('button', { name: 'One PDF' }).click()
    const file = page.getByRole('listitem').filter({ hasText: 'Sales.pdf' })
    await file.getByRole('button', { name: 'Share' }).click({ timeout: 40_000 })
    await page.getByRole('menuitem', { name: 'A link for 30 days' }).click()
    const link = (await file.locator('code').innerText()).trim()
    const shared = await fetch(link)
    expect([shared.status, shared.headers.get('content-type')]).to.deep.equal([200, 'application/pdf'])
    expect(
      Buffer.from(await shared.arrayBuffer())
        .subarray(0, 5)
        .toString(),
    ).to.equal('%PDF-')
    await file.getByText(/Shared until/).waitFor()
    await file.getByRole('button', { name: 'End the link' }).click()
    await file.getByRole('button', { name: 'Share' }).waitFor()
    expect((await fetch(link)).status).to.equal(404)
  })

  it('tells which agreements would say something else once the sheet was changed, and makes only those again', async () => {
    await page.getByRole('link', { name: 'colony-sales-2027.csv' }).first().click()
    await page.getByRole('gridcell', { name: 'Marlpit Gardens', exact: true }).first().dblclick()
    await page.keyboard.press('Control+a')
    await page.keyboard.type('Marlpit Gardens & Daughters')
    await page.keyboard.press('Enter')
    await page
      .getByText(/was “Marlpit Gardens”/)
      .waitFor({ state: 'attached' })
      .catch(() => undefined)
    await page.goto(runUrl)
    await tab(/^changed 1/i)
    const changed = page.getByRole('region', { name: 'Changed rows' })
    await changed.getByText('Marlpit Gardens → Marlpit Gardens & Daughters').waitFor()
    await changed.locator('ins', { hasText: '& Daughters' }).first().waitFor()
    await page.getByRole('button', { name: 'Make 1 row again' }).click()
    await page.getByText('1 agreement made again, under the same number.').waitFor()
    await page.goto(`${running.url}/agreements?search=Daughters`)
    await page.getByRole('row').nth(1).click()
    await page.getByText(/revision 2, ready to send/).waitFor()
  })

  it('is signed on a phone, with every kind of blank told apart from what is wrong with it', async () => {
    await page.getByRole('button', { name: 'Send for signature' }).click()
    await page.getByText('Sent.', { exact: true }).waitFor()
    await page.getByRole('link', { name: 'Test inbox' }).click()
    await page.getByRole('list', { name: 'Emails' }).getByRole('link').first().click()
    const link = await page
      .frameLocator('iframe')
      .getByRole('link', { name: 'Read and sign' })
      .getAttribute('href')
    const phone = await browser.page()
    await phone.setViewportSize({ width: 390, height: 844 })
    await phone.goto(link!)
    await phone.getByRole('checkbox').check()
    await phone.getByRole('button', { name: 'Read the agreement' }).click()
    // The text flows at a readable size; the exact pages are one touch away.
    await phone.getByText('What counts, and what is sealed, are the exact pages.').waitFor()
    const width = await phone.evaluate(() => document.documentElement.scrollWidth)
    expect(width, 'nothing is wider than the phone').to.be.at.most(390)
    const place = (label: string) => phone.getByRole('button', { name: new RegExp(`^${label}, `) })
    const use = () => phone.getByRole('button', { name: 'Use it' }).click()
    await phone.getByRole('button', { name: 'Sign this agreement' }).click()
    await phone.getByText(/places are still empty\. The first is Colonies counted/).waitFor()
    const small = await phone
      .getByRole('article')
      .getByRole('button')
      .evaluateAll((all) => all.filter((each) => each.getBoundingClientRect().height < 44).length)
    expect(small, 'every place can be hit by a thumb').to.equal(0)
    await place('Colonies counted').click()
    await phone.getByRole('textbox', { name: 'Colonies counted' }).fill('four')
    await use()
    await phone
      .getByRole('alert')
      .getByText(/is not a number|A number of colonies/)
      .waitFor()
    await phone.getByRole('textbox', { name: 'Colonies counted' }).fill('5000')
    await use()
    await phone.getByRole('alert').getByText('A number of colonies from 0 to 1000.').waitFor()
    await phone.getByRole('textbox', { name: 'Colonies counted' }).fill('12')
    await use()
    await place('Brood').click()
    await phone.getByRole('checkbox', { name: 'Brood' }).check()
    await use()
    await place('Carried in').click()
    await phone.getByLabel('own truck').check()
    await phone.getByLabel('by the Keeper').check()
    expect(await phone.getByLabel('own truck').isChecked()).to.equal(false)
    await use()
    await place('Registration').click()
    await phone.locator('input[type=file]').setInputFiles({
      name: 'registration.pdf',
      mimeType: 'application/pdf',
      buffer: Buffer.from('%PDF-1.7\n%%EOF\n'),
    })
    await use()
    await phone.getByText('registration.pdf').waitFor()
    await place('Signature').click()
    await phone.getByRole('button', { name: 'Use this signature' }).click()
    const written = place('Signature').locator('span span')
    expect(
      await written.evaluate((span) => span.scrollWidth <= span.clientWidth),
      'the signature is shown whole',
    ).to.equal(true)
    await phone.getByText('Everything that is needed is filled in').waitFor()
    // What was filled in is there again after the page was closed, in either view.
    await phone.reload()
    await phone
      .getByRole('button', { name: /^Colonies counted, filled/ })
      .getByText('12')
      .waitFor()
    await phone.getByRole('button', { name: 'Exact pages', exact: true }).click()
    await phone.locator('[data-page="1"] canvas').waitFor()
    await phone.getByRole('button', { name: /^Colonies counted, filled.*: 12$/ }).waitFor()
    await phone.locator('[data-page] svg').getByText('12', { exact: true }).waitFor()
    await phone.getByRole('button', { name: 'Sign this agreement' }).click()
    await phone.getByRole('heading', { name: 'You have signed' }).waitFor()
    await phone.close()
  })

  it('shows what the signer filled in beside the agreement, the file to fetch', async () => {
    await page.goto(`${running.url}/agreements?search=Daughters`)
    await page.getByRole('row').nth(1).click()
    const way = page.getByRole('main')
    for (const words of ['Colonies counted', '12', 'by the Keeper'])
      await way.getByText(words).first().waitFor()
    const download = page.waitForEvent('download')
    await way.getByRole('link', { name: 'registration.pdf' }).click()
    expect((await download).suggestedFilename()).to.equal('registration.pdf')
  })

  it('is found by its commands and keys: search, a list by j and Enter, and back', async () => {
    await page.keyboard.press('Control+k')
    await page.keyboard.type('records')
    await page.getByRole('option', { name: /^Records/ }).waitFor()
    await page.keyboard.press('Enter')
    await page.waitForURL(/\/records/)
    await page.goto(`${running.url}/agreements`)
    await page.getByRole('table').focus()
    await page.keyboard.press('j')
    await page.keyboard.press('j')
    await page.keyboard.press('Enter')
    await page.waitForURL(/\/agreements\/[\w-]{36}/)
    await page.goBack()
    await page.waitForURL(/\/agreements$/)
    await page.keyboard.press('?')
    await page.getByRole('dialog').getByText(/keys/i).first().waitFor()
    await page.keyboard.press('Escape')
  })
})
