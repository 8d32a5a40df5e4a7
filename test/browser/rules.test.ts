import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { signIn, still } from '#test/support/browser.ts'
import { Client, eventually } from '#test/support/client.ts'
import { PHONE, sticksOut } from '#test/support/narrow.ts'
import { openedApp } from '#test/support/opened-app.ts'
import { outOfForce } from '#test/support/rules.ts'
import type { Running } from '#test/support/running.ts'
import { seasonSheet } from '#test/support/story.ts'

describe('a rule table and the approvals that come of it, through the real interface', () => {
  let running: Running
  let page: Page
  let ines: Client
  let tableUrl = ''
  let run: { readonly id: string; readonly sheet: string }
  /** Agreements by what is to be asked of them. */
  const made: Record<'big' | 'small' | 'middle', string> = { big: '', small: '', middle: '' }

  openedApp('rules_browser', { as: 'Ines Hallow', sheet: false, past: 0.05, story: true }, async (all) => {
    ;({ running, page } = all)
    ines = await Client.signedIn(running.url, 'ines.hallow')
    await outOfForce(ines)
  })

  const grid = () => page.getByRole('grid', { name: 'Rules' })
  const cell = (row: number, column: number) =>
    grid()
      .getByRole('row')
      .nth(row)
      .getByRole('gridcell')
      .nth(column - 1)
  const findings = () => page.getByRole('complementary', { name: 'Beside the table' })
  const as = async (name: string) => {
    await page.context().clearCookies()
    await signIn(page, running.url, name)
  }
  const saved = () => page.getByText('saved', { exact: true }).waitFor()

  it('is begun, and given columns of what its templates know', async () => {
    await page.goto(`${running.url}/rules`)
    await page.getByRole('button', { name: 'New table' }).click()
    await page.getByLabel('Name of the table').fill('Who approves a season')
    await page.getByLabel('About').selectOption({ label: 'Season pollination agreement' })
    for (const name of ['total', 'land.leased']) {
      await page.getByRole('button', { name: 'Column', exact: true }).click()
      await page
        .getByRole('button', { name: new RegExp(`${name.replace('.', '\\.')}$`) })
        .first()
        .click()
    }
    await page.getByRole('columnheader', { name: 'Land leased' }).waitFor()
    tableUrl = page.url()
  })

  it('is written with the keyboard like any sheet, a block of another one pasted', async () => {
    await cell(1, 1).click()
    await page.keyboard.type('over 80,000')
    await page.keyboard.press('Tab')
    await page.keyboard.press('Tab')
    await page.keyboard.type('operations directr')
    await page.keyboard.press('Enter')
    await cell(1, 1).getByText('> 80000').waitFor()
    await cell(1, 1).getByText('over $80,000.00').waitFor()
    // A name that nobody has stands at its cell, with the nearest; one click puts it right.
    await cell(1, 3).click()
    await page.getByRole('button', { name: 'Use “operations director”' }).click()
    await cell(1, 3).getByText('operations director', { exact: true }).waitFor()
    await page.keyboard.press('Escape')
    await grid().focus()
    await page.evaluate(() => {
      const data = new DataTransfer()
      data.setData('text/plain', 'under 20,000\tno\tnobody\n\tyes\tfinance\n')
      document
        .querySelector('[role=grid]')!
        .dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))
    })
    // It went in where one was: over the row that was there, and one more.
    await page.keyboard.press('Control+z')
    await cell(1, 3).getByText('operations director', { exact: true }).waitFor()
    await page.getByRole('button', { name: '+ Add row' }).click()
    await cell(2, 1).click()
    await page.evaluate(() => {
      const data = new DataTransfer()
      data.setData('text/plain', 'under 20,000\tno\tnobody\n\tyes\tfinance\n')
      document
        .querySelector('[role=grid]')!
        .dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))
    })
    await cell(2, 1).getByText('< 20000').waitFor()
    await cell(3, 2).getByText('yes').waitFor()
    await saved()
  })

  it('shows its hole while it is typed, which is closed with the example kept as a case', async () => {
    await findings()
      .getByText('Nobody is asked where Total is $20,000.00 to $80,000.00 and Land leased is no.')
      .waitFor()
    await findings().getByLabel('Who approves in these cases').fill('sales lead')
    await findings().getByRole('button', { name: 'Close it' }).click()
    await findings().getByText('Every case has its row').waitFor()
    await cell(4, 3).getByText('sales lead').waitFor()
    await findings().getByRole('tab', { name: /cases/i }).click()
    await findings().getByLabel('As it should be').waitFor()
    await findings().getByText('sales lead').waitFor()
  })

  it('lights the rows that hold for a record in view, one after the other', async () => {
    await findings()
      .getByRole('tab', { name: /record/i })
      .click()
    await findings().getByText(/^1 of/).waitFor()
    await grid()
      .getByRole('row', { name: /holds for the record in view/ })
      .first()
      .waitFor()
    const first = await findings().getByRole('link').innerText()
    await findings().getByRole('button', { name: 'Record after' }).click()
    await page.waitForFunction(
      (before) => document.querySelector('[aria-label="Beside the table"] a')?.textContent !== before,
      first,
    )
  })

  it('looks back over what was made; a figure opens its agreements', async () => {
    await page.getByRole('tab', { name: /look back/i }).click()
    await page.getByLabel('Looked back over').selectOption('all')
    await page.getByRole('img', { name: /^Approvals a week/ }).waitFor()
    const table = page.getByRole('region', { name: 'By approver' })
    await table
      .getByRole('row', { name: /finance/ })
      .getByRole('button', { name: /by the draft$/ })
      .click()
    const opened = page.getByRole('region', { name: 'finance, by the draft' })
    await opened.getByRole('link').first().waitFor()
    expect(await opened.getByRole('listitem').count()).to.be.greaterThan(0)
    await page.getByRole('tab', { name: /^table/i }).click()
  })

  it('is put in force, and decides over a batch', async () => {
    await page.getByRole('button', { name: 'Publish edition 1' }).click()
    await page.getByLabel('What has changed').fill('The first one')
    await page.getByRole('dialog').getByRole('button', { name: 'Publish edition 1' }).click()
    await page.getByText('Edition 1 routes agreements made from now on.').waitFor()
    const petra = await Client.signedIn(running.url, 'petra.vance')
    const templateId = (await petra.call('templates')).find(({ name }) => name.startsWith('Season'))!.id
    const sheet = await petra.call('uploadSheet', { query: { name: 'batch.csv' }, body: seasonSheet(3) })
    const mend = (row: number, values: Readonly<Record<string, string>>) =>
      Object.entries(values).map(([column, value]) => ({ row, column, value }))
    const own = {
      'Leased land': 'no',
      Landowner: '',
      'Landowner’s e-mail': '',
      'Price per colony': '200',
      'Discount %': '',
    }
    await petra.call('mendCells', {
      params: { id: sheet.id },
      body: {
        cells: [
          ...mend(2, {
            ...own,
            Colonies: '800',
            'Leased land': 'yes',
            Landowner: 'Amos Pell',
            'Landowner’s e-mail': 'amos.pell@brightwaterland.example',
          }),
          ...mend(3, { ...own, Colonies: '40' }),
          ...mend(4, { ...own, Colonies: '200' }),
        ],
      },
    })
    const { id } = await petra.call('startRun', {
      body: { name: 'Batch', templateId, sheetId: sheet.id, setup: { duplicates: 'allow' } },
    })
    const state = () => petra.call('run', { params: { id } })
    await eventually(async () => (await state()).state === 'checked', 'the check')
    const setup = await petra.call('runSetup', { params: { id } })
    await petra.call('changeRun', {
      params: { id },
      body: { mapping: { ...setup.mapping, first_season: 'New grower' } },
    })
    await eventually(async () => (await state()).state === 'checked', 'the second check')
    await petra.call('generate', { params: { id } })
    await eventually(async () => (await state()).state === 'generated', 'the batch', 60)
    const { agreements } = await petra.call('agreements', { query: { run: id } })
    const inOrder = agreements.toSorted((a, b) => (a.number < b.number ? -1 : 1))
    expect(inOrder.map(({ state: how }) => how)).to.deep.equal(['in approval', 'cleared', 'in approval'])
    ;[made.big, made.small, made.middle] = inOrder.map((each) => each.id) as [string, string, string]
    run = { id, sheet: sheet.id }
    await page.goto(`${running.url}/agreements/${made.big}`)
    await page.getByText(/row 1 of Who approves a season, edition 1/).waitFor()
  })

  it('one approves with a key, seeing why; another returns with a reason', async () => {
    await as('Silas Brandt')
    await page.goto(`${running.url}/approvals`)
    await page.getByRole('link', { name: /Total \$160,000\.00 is over/ }).waitFor()
    // j goes down the list, and stays at its last.
    for (const _ of await page.getByRole('checkbox').all()) await page.keyboard.press('j')
    await page.getByText(/because Total \$160,000\.00 is over \$80,000\.00/).waitFor()
    await page.getByRole('link', { name: 'Who approves a season' }).waitFor()
    await page.locator('[data-page="1"] canvas').waitFor()
    await page.keyboard.press('a')
    await page.getByText(/ is approved\.$/).waitFor()
    await page.getByRole('link', { name: /Total \$160,000\.00 is over/ }).waitFor({ state: 'detached' })
    await as('Ruth Ambler')
    await page.goto(`${running.url}/approvals`)
    await page.getByRole('link', { name: /Total \$40,000\.00/ }).click()
    await page.getByText(/because Total \$40,000\.00/).waitFor()
    const size = page.viewportSize()!
    await page.setViewportSize(PHONE)
    await page.goto(`${running.url}/desk`)
    const waiting = page.getByRole('region', { name: 'For you to approve' })
    const line = waiting.getByRole('button').filter({ hasText: /because Total \$40,000\.00/ })
    await line.waitFor()
    expect(
      await line
        .locator('> span')
        .evaluateAll((all) => all.every((each) => each.scrollWidth <= each.clientWidth)),
      'name and reason are whole on a phone',
    ).to.equal(true)
    expect(await sticksOut(page)).to.deep.equal([])
    await line.click()
    await page.getByRole('button', { name: 'Return' }).click()
    await page.getByLabel('Why it goes back').fill('Whose price is this?')
    expect(await sticksOut(page)).to.deep.equal([])
    const sheet = (await page.getByRole('dialog').boundingBox())!
    expect([sheet.x, sheet.width, sheet.y + sheet.height]).to.deep.equal([0, PHONE.width, PHONE.height])
    await page.getByRole('dialog').getByRole('button', { name: 'Return' }).click()
    await page.setViewportSize(size)
    await page.getByText('Agreement returned.').waitFor()
  })

  it('who is away says who stands in, and that one decides for them', async () => {
    await as('Gideon Farrow')
    await page.goto(`${running.url}/absences`)
    await page.getByLabel('Stand-in').selectOption({ label: 'Maren Oakes' })
    await page.getByRole('button', { name: 'Save absence' }).click()
    await page.getByText('Maren Oakes stands in').waitFor()
    await as('Maren Oakes')
    await page.getByText('for Gideon Farrow, because Land leased is yes').click()
    await page.getByText('In place of Gideon Farrow, asked of finance').waitFor()
    await page.getByRole('button', { name: 'Approve' }).click()
    await page.getByText(/ is approved\.$/).waitFor()
    const { state, steps } = await ines.call('agreement', { params: { id: made.big } })
    expect(state).to.equal('cleared')
    expect(steps.find(({ approver }) => approver === 'finance')).to.include({
      decidedBy: 'Maren Oakes',
      decidedFor: 'Gideon Farrow',
    })
  })

  it('after an edit exactly one approval falls, and the trail says why', async () => {
    const petra = await Client.signedIn(running.url, 'petra.vance')
    await petra.call('mendCells', {
      params: { id: run.sheet },
      body: { cells: [{ row: 2, column: 'Colonies', value: '820' }] },
    })
    await eventually(
      async () => (await petra.call('run', { params: { id: run.id } })).rows.changed === 1,
      'the change',
    )
    await petra.call('redoRows', { params: { id: run.id }, body: {} })
    await eventually(
      async () => (await petra.call('agreement', { params: { id: made.big } })).revision === 2,
      'the making again',
    )
    await as('Petra Vance')
    await page.goto(`${running.url}/agreements/${made.big}`)
    await page.getByText(/Operations director: waiting since/i).waitFor()
    await page.getByText(/kept: its values are the same/).waitFor()
    await page.getByRole('tab', { name: 'trail' }).click()
    await page
      .getByText(
        /let the approval by Silas Brandt as operations director fall: Total was \$160,000\.00 and is \$164,000\.00/,
      )
      .waitFor()
    expect(await page.getByText(/let the approval by/).count()).to.equal(1)
  })

  it('is not lost by going back and forth, and two who write at once are told', async () => {
    await as('Ines Hallow')
    await page.goto(tableUrl)
    await cell(1, 1).click()
    await page.keyboard.type('over 90,000')
    await page.keyboard.press('Enter')
    await page.goBack()
    await page.goForward()
    await cell(1, 1).getByText('> 90000').waitFor()
    await saved()
    const id = tableUrl.split('/').at(-1)!.split('?')[0]!
    const { draft, version } = await ines.call('ruleTable', { params: { id } })
    await ines.call('saveRuleDraft', {
      params: { id },
      body: { version, draft: { ...draft, escalateTo: 'legal' } },
    })
    await cell(1, 1).click()
    await page.keyboard.type('over 95,000')
    await page.keyboard.press('Enter')
    await page.getByText('A colleague has saved this table since.').waitFor()
    await page.getByRole('button', { name: 'Use their table' }).click()
    await cell(1, 1).getByText('> 90000').waitFor()
    expect(await page.getByLabel('Overdue goes to').inputValue()).to.equal('legal')
    await still(page)
  })
})
