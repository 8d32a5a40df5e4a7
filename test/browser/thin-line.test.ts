import { mkdtemp, readFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import JSZip from 'jszip'
import type { Page } from 'playwright-core'
import { type Browser, still } from '#test/support/browser.ts'
import { soundValue } from '#test/support/story.ts'
import { openedApp } from '#test/support/opened-app.ts'
import type { Running } from '#test/support/running.ts'

describe('the thin line, through the real interface', () => {
  let running: Running
  let browser: Browser
  let page: Page
  let runUrl = ''

  const signIn = async (name: string) => {
    await page.context().clearCookies()
    await page.goto(running.url)
    await page.getByRole('button', { name }).click()
    await page.getByRole('navigation', { name: 'Areas' }).waitFor()
  }
  const area = (name: string) =>
    page.getByRole('navigation', { name: 'Areas' }).getByRole('link', { name }).click()

  openedApp(
    'browser',
    { story: true, complaints: 'of no matter' },
    (all) => void ({ running, browser, page } = all),
  )

  it('signs in by password, and by one click', async () => {
    await page.goto(running.url)
    await page.getByLabel('Email address').fill('ines.hallow@larkmere.example')
    await page.getByLabel('Password').fill('guess')
    await page.getByRole('button', { name: 'Sign in' }).click()
    await page.getByText('The email address or the password is not right.').waitFor()
    await page.getByLabel('Password').fill('larkmere')
    await page.getByRole('button', { name: 'Sign in' }).click()
    await page.getByText('contract administrator').waitFor()
    await signIn('Ines Hallow')
  })

  it('changes wording with the proof beside it, steps to the next row, traces a value, and publishes', async () => {
    await area('Templates')
    await page.getByText('Season pollination agreement').click()
    const proof = page.getByRole('region', { name: 'Proof' })
    await proof.getByText('Kingsgate Growers').waitFor()
    const text = page.getByRole('textbox', { name: 'Template text' })
    await text.getByText('Nobody but the keeper opens').click()
    await page.keyboard.press('End')
    await page.keyboard.type(' This holds at night too, for {{grower.name}}')
    await text.getByText('This holds at night too').waitFor()
    await page.getByText(/^Saved/).waitFor()
    await proof.locator('[data-page="1"] canvas').waitFor()
    await page.keyboard.press('Alt+ArrowRight')
    await proof.getByText('Brightmeadow Fruit Farm').waitFor()
    await proof.getByRole('button', { name: 'Trace of Delivery from' }).first().hover({ force: true })
    await proof.getByText('bloom.start - duration("P9D")').waitFor()
    await page.getByRole('button', { name: 'Publish edition 2' }).click()
    await page.getByLabel('What is new in it').fill('Access at night')
    await page
      .getByRole('dialog')
      .getByRole('button', { name: /^Publish edition/ })
      .click()
    await page.getByText('Edition 2 is published').waitFor()
  })

  it('sets a condition in the margin: a fault is told under the word, and a sound one drops the clause', async () => {
    await page.getByRole('button', { name: /only where organic/ }).click()
    const condition = page.getByLabel('The condition as an expression')
    await condition.fill('organc and acres > 50')
    await page.getByText('There is no field “organc”.').waitFor()
    expect(await page.getByRole('button', { name: 'Set', exact: true }).isDisabled()).to.equal(true)
    await condition.fill('organic and acres > 50')
    await page.getByRole('button', { name: 'Set', exact: true }).click()
    await page.getByText('only where organic is yes and acres is over 50').waitFor()
    await page.getByRole('textbox', { name: 'Template text' }).focus()
    await page.keyboard.press('Control+z')
    await page.getByRole('button', { name: /^only where organic is yes( ?dropped.*)?$/ }).waitFor()
    await page.getByText(/^Saved/).waitFor()
  })

  it('writes clauses from the keyboard, and shows a merge field in another format', async () => {
    const text = page.getByRole('textbox', { name: 'Template text' })
    const clauses = () => text.locator('section.clause').count()
    const before = await clauses()
    await text.getByText('The law of the State of Oregon applies.').click()
    await page.keyboard.press('End')
    await page.keyboard.press('Enter')
    await page.keyboard.type('The seat of the keeper is where courts are sought.')
    expect(await clauses()).to.equal(before + 1)
    await page.keyboard.press('Tab')
    await text.locator('section.clause section.clause').getByText('The seat of the keeper').waitFor()
    await page.keyboard.press('Shift+Tab')
    await text
      .locator('section.clause section.clause', { hasText: 'The seat of the keeper' })
      .waitFor({ state: 'detached' })
    await text.locator('.merge-field', { hasText: 'delivery.start' }).first().click()
    await page.getByLabel('Delivery from shown as').selectOption('ISO')
    await text.locator('.merge-field[data-format="ISO"]', { hasText: 'delivery.start' }).waitFor()
    await page.getByText(/^Saved/).waitFor()
    const { rows } = await running.app.pool.query<{ draft: string }>(
      `select draft::text as draft from template where name like 'Season%'`,
    )
    expect(rows[0]!.draft).to.contain('The seat of the keeper').and.to.contain('"format": "ISO"')
  })

  it('uploads the bookings sheet, and finds its cells at fault where they stand', async () => {
    await area('Records')
    await page
      .getByLabel('Sheet file')
      .setInputFiles({ name: 'notes.xlsx', mimeType: 'text/plain', buffer: Buffer.from('no workbook') })
    await page.getByText('The file is named .xlsx, but it is not a workbook').waitFor()
    await page.getByLabel('Sheet file').setInputFiles('demo/sheets/bookings-2027.csv')
    const grid = page.getByRole('grid', { name: 'Rows of the sheet' })
    await grid.getByRole('gridcell', { name: 'Kingsgate Growers' }).waitFor()
    await page.getByLabel(/unlike their column/).check()
    const odd = grid.getByRole('gridcell', { name: 'hester.pryor at quarrybend' })
    await odd.dblclick()
    await page.getByLabel('Cell', { exact: true }).fill('hester.pryor@quarrybend.example')
    await page.keyboard.press('Enter')
    await page.getByText('1 cell fixed').waitFor()
    await odd.waitFor({ state: 'detached' })
  })

  it('sets a run up on one page, which shows what each choice gives', async () => {
    await page.getByRole('button', { name: 'Set up a run' }).click()
    await page.getByLabel('Name of the run').fill('Season 2027')
    await page.getByRole('button', { name: 'Check rows' }).click()
    const effect = page.getByRole('region', { name: 'What this gives' })
    // The demo's own bookings had this shape: their mapping is carried over.
    await effect.getByText('220 rows ready, 20 rows need you').waitFor()
    await page.getByLabel('Source of First season').selectOption('')
    await effect.getByText('0 rows ready, 240 rows need you').waitFor()
    await page.getByText('Nothing gives “First season”.').waitFor()
    await page.getByLabel('Source of First season').selectOption('New grower')
    await effect.getByText('220 rows ready, 20 rows need you').waitFor()
    await page.getByRole('button', { name: 'Only some rows' }).click()
    await page.getByLabel('The row rule as an expression').fill('colonies > 1000')
    await page.getByRole('button', { name: 'Set', exact: true }).click()
    await effect.getByText(/, 2\d\d left out/).waitFor()
    await page.getByRole('button', { name: 'All rows' }).click()
    await effect.getByText('220 rows ready, 20 rows need you').waitFor()
    runUrl = page.url().replace(/\?.*/, '')
  })

  it('mends every row that needs a hand in its place', async () => {
    await page.getByRole('tab', { name: /need a hand/i }).click()
    const hands = page.getByRole('region', { name: 'Rows that need a hand' })
    await hands.getByText('“2nd week of April” is not a date.').waitFor()
    await hands.getByText('“as last year” is not a number.').waitFor()
    expect(await hands.getByText('“Address” is missing.').count()).to.equal(4)
    for (let left = 20; left > 0; left--) {
      const place = hands.locator('input, select').first()
      const label = (await place.getAttribute('aria-label'))!
      const value = soundValue(label)
      if ((await place.evaluate((element) => element.tagName)) === 'SELECT') await place.selectOption(value)
      else {
        await place.fill(value)
        await page.keyboard.press('Enter')
      }
      await page.getByLabel(label, { exact: true }).waitFor({ state: 'detached' })
    }
    await page.getByText('240 rows ready').first().waitFor()
  })

  it('reads the wordings, and generates all 240 with progress', async () => {
    await page.getByRole('tab', { name: /^wordings/i }).click()
    await page.getByRole('button', { name: /^12 agreements/ }).click()
    await page.getByRole('region', { name: 'Proof' }).locator('canvas').first().waitFor()
    const unread = page.getByLabel('I have read this one')
    for (let left = await unread.count(); left > 0; left--) {
      await unread.first().click()
      await page.waitForFunction(
        (open) =>
          [...document.querySelectorAll('label')].filter((each) => each.innerText.includes('I have read'))
            .length < open,
        left,
      )
    }
    await page.getByText(/have been read: they cover every one of 240 rows/).waitFor()
    await page.getByRole('button', { name: 'Generate 240 agreements' }).click()
    await page.getByText(/\d+ of 240 made, [\d.]+ a second, .+ left/).waitFor()
    await page.getByText('240 agreements made').waitFor({ timeout: 90_000 })
  })

  it('gives one PDF a row under the name pattern in a ZIP', async () => {
    await page.getByRole('tab', { name: 'Files' }).click()
    await page.getByRole('button', { name: 'Archive of PDFs' }).click()
    const link = page.getByRole('link', { name: 'Season 2027.zip' })
    await link.waitFor({ timeout: 60_000 })
    const download = page.waitForEvent('download')
    await link.click()
    const path = join(await mkdtemp(join(tmpdir(), 'brevan-zip-')), 'all.zip')
    await (await download).saveAs(path)
    const names = Object.keys((await JSZip.loadAsync(await readFile(path))).files)
    expect(names.filter((name) => /^LP-2027-\d{4} .+\.pdf$/.test(name))).to.have.length(240)
    expect(names).to.include('LP-2027-0001 Kingsgate Growers.pdf')
  })

  it('the director finds an agreement on the desk with its reason, approves one and returns another', async () => {
    await signIn('Silas Brandt')
    const desk = page.getByRole('region', { name: 'For you to approve' })
    await desk
      .getByText(/because Total \$[\d,.]+ is over \$80,000\.00/)
      .first()
      .waitFor()
    const first = (await desk.getByRole('button').first().innerText()).slice(0, 12)
    await desk.getByRole('button').first().click()
    await page.getByRole('button', { name: 'Approve' }).click()
    await page.getByText(/ is approved\.$/).waitFor()
    await area('Desk')
    await desk.getByText(first).waitFor({ state: 'detached' })
    // The list may be drawn anew once more under the pointer.
    await still(page)
    await desk.getByRole('button').first().click()
    await page.getByRole('button', { name: 'Return' }).first().click()
    await page.getByLabel('Why it goes back').fill('The discount is not agreed.')
    await page.getByRole('dialog').getByRole('button', { name: 'Return' }).click()
    await page.getByText('Agreement returned.').waitFor()
  })

  /** Opens the newest mail to somebody in the post room and follows its link. */
  async function openLink(to: string): Promise<Page> {
    await signIn('Ines Hallow')
    await page.getByRole('link', { name: 'Test inbox' }).click()
    await page.getByLabel('Search emails').fill(to)
    await page.getByRole('list', { name: 'Emails' }).getByRole('link').first().click()
    const [signing] = await Promise.all([
      page.context().waitForEvent('page'),
      page.frameLocator('iframe').getByRole('link', { name: 'Read and sign' }).click(),
    ])
    return signing
  }

  async function sign(signing: Page, draw: boolean): Promise<void> {
    expect(await signing.getByRole('button', { name: 'Read the agreement' }).isDisabled()).to.equal(true)
    await signing.getByRole('checkbox').check()
    await signing.getByRole('button', { name: 'Read the agreement' }).click()
    await signing.locator('[data-page="5"]').waitFor()
    await signing.getByRole('button', { name: 'Sign this agreement' }).click()
    await signing.getByText('6 places are still empty. The first is Initials, page 1.').waitFor()
    expect(await signing.evaluate(() => document.activeElement?.getAttribute('aria-label'))).to.equal(
      'Initials, page 1',
    )
    await signing.getByRole('button', { name: /^Initials, page 1/ }).click()
    await signing.getByRole('button', { name: 'Use these initials' }).click()
    for (const each of [2, 3, 4, 5])
      await signing.getByRole('button', { name: `Initials, page ${each}`, exact: true }).click()
    await signing.getByRole('button', { name: 'Signature', exact: true }).click()
    if (draw) {
      await signing.getByRole('button', { name: 'Draw', exact: true }).click()
      const box = (await signing.getByLabel('Draw here').boundingBox())!
      await signing.mouse.move(box.x + 60, box.y + 80)
      await signing.mouse.down()
      for (let i = 0; i < 40; i++)
        await signing.mouse.move(box.x + 60 + i * 6, box.y + 80 + Math.sin(i / 4) * 30)
      await signing.mouse.up()
    }
    await signing.getByRole('button', { name: 'Use this signature' }).click()
    await signing.getByText('Everything that is needed is filled in').waitFor()
    await signing.getByRole('button', { name: 'Sign this agreement' }).click()
    await signing.getByRole('heading', { name: /You have signed|Signed by everyone/ }).waitFor()
    await signing.reload()
    await signing.getByRole('heading', { name: /You have signed|Signed by everyone/ }).waitFor()
    await signing.close()
  }

  it('sends one, and each signer in order signs by a link from the post room', async () => {
    await signIn('Ines Hallow')
    await page.goto(
      `${runUrl.replace(/\/runs\/([\w-]+).*/, '/agreements?state=cleared&run=$1')}&search=Kingsgate`,
    )
    await page.getByRole('row').filter({ hasText: 'Kingsgate Growers' }).click()
    const email = await page
      .getByText(/@kingsgate\.example/)
      .first()
      .innerText()
    await page.getByRole('button', { name: 'Send for signature' }).click()
    await page.getByText('Sent.', { exact: true }).waitFor()
    await sign(await openLink(/[\w.]+@kingsgate\.example/.exec(email)![0]), true)
    await sign(await openLink('tobias.renn'), false)
  })

  it('is executed: the trail verifies, everyone has the sealed file by mail', async () => {
    await page.goto(`${running.url}/agreements?state=executed`)
    // The seal follows on a queue: on a busy machine it takes its time.
    await page.getByRole('row').filter({ hasText: 'Kingsgate Growers' }).click({ timeout: 100_000 })
    await page.getByRole('tab', { name: 'trail' }).click()
    await page.getByText('The chain of 12 entries holds; record, values and files agree with it.').waitFor()
    await page.getByRole('tab', { name: 'document' }).click()
    await page.locator('[data-page="6"]').waitFor({ state: 'attached' })
    await page.getByRole('link', { name: 'Test inbox' }).click()
    await page.getByLabel('Search emails').fill('Signed by everyone')
    const mails = page.getByRole('list', { name: 'Emails' })
    for (const reader of ['tobias.renn@larkmere', '@kingsgate', 'ines.hallow@larkmere'])
      await mails.getByRole('link', { name: new RegExp(`Signed by everyone.*to .*${reader}`, 's') }).waitFor()
  })

  it('says of a wrong link what to do', async () => {
    const wrong = await browser.page()
    await wrong.goto(`${running.url}/sign/${'x'.repeat(43)}`)
    await wrong.getByRole('heading', { name: 'This link is not known' }).waitFor()
    await wrong.close()
  })

  it('left no warning, error or unhandled failure in the console', () => {
    expect(browser.complaints).to.deep.equal([])
  })
})
