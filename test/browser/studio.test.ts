import { readFile } from 'node:fs/promises'
import { expect } from 'chai'
import JSZip from 'jszip'
import type { Page } from 'playwright-core'
import type { TemplateContent } from '#core/document/template.ts'
import { eventually } from '#test/support/client.ts'
import { countClicks, openBrowser, signIn } from '#test/support/browser.ts'
import { openedApp } from '#test/support/opened-app.ts'
import type { Running } from '#test/support/running.ts'

describe('the template studio, through the real interface', () => {
  let running: Running
  let page: Page
  let clicks = () => 0

  const panel = (name: string) => page.getByRole('tab', { name }).click()
  const text = () => page.getByRole('textbox', { name: 'Template text' })
  const proof = () => page.getByRole('region', { name: 'Proof', exact: true })
  const saved = () => page.getByText(/^Saved/).waitFor()
  /** Chooses an entry of the menu that opens on `/` while writing. */
  const insert = async (query: string, title: string) => {
    await page.keyboard.type(`/${query}`)
    await page.getByRole('option', { name: title }).first().waitFor()
    await page.getByRole('option', { name: title }).first().click()
  }
  /** One step at a time: the next is taken back only when the text shows the last, so that none too many is. */
  const undoUntil = async (done: () => Promise<boolean>) => {
    for (let i = 0; i < 8 && !(await done()); i++) {
      const before = await text().textContent()
      await page.keyboard.press('Control+z')
      await page
        .waitForFunction((shown) => document.querySelector('.page-text')?.textContent !== shown, before, {
          timeout: 5000,
        })
        .catch(() => undefined)
    }
  }
  const draft = async (name: string) => {
    const { rows } = await running.app.pool.query<{ draft: TemplateContent }>(
      'select draft from template where name = $1',
      [name],
    )
    return rows[0]!.draft
  }
  const typeCondition = async (expression: string) => {
    const editor = page.getByLabel('The condition as an expression')
    await editor.fill(expression)
  }

  openedApp('studio', { as: 'Ines Hallow', story: true }, async (all) => {
    ;({ running, page } = all)
    clicks = await countClicks(page)
  })

  it('keeps a new field in the text, and what was saved when one comes back', async () => {
    await page.goto(`${running.url}/templates`)
    await page.getByRole('button', { name: 'New template' }).click()
    await page.getByLabel('Title').fill('Grower note')
    await page.getByRole('button', { name: 'Create template' }).click()
    await text().getByText('Grower note').waitFor()
    await text().click()
    await page.keyboard.press('Control+End')
    await page.keyboard.type('This note is for {{grower name')
    await page.getByRole('option', { name: /New field/ }).waitFor()
    await page.keyboard.press('Enter')
    await page.keyboard.type(', who asked for it.')
    await saved()
    const written = async () => JSON.stringify((await draft('Grower note')).document)
    expect(await written())
      .to.contain('"field":"grower_name"')
      .and.to.contain('who asked for it')
    expect(await text().textContent()).to.contain('who asked for it')
    for (const more of [' Once.', ' Twice.']) {
      await text().click()
      await page.keyboard.press('Control+End')
      await page.keyboard.type(more)
      await page
        .getByText('Not saved yet')
        .waitFor({ timeout: 2000 })
        .catch(() => undefined)
      await saved()
      await page.getByRole('link', { name: 'Records' }).click()
      await page.getByRole('heading', { name: 'Records' }).waitFor()
      await page.goBack()
      await text().getByText('This note is for').waitFor()
      expect(await text().textContent()).to.contain(more.trim())
    }
    expect(await page.getByText('saved this draft after you opened it').count()).to.equal(0)
    expect(await written())
      .to.contain('Once.')
      .and.to.contain('Twice.')
  })

  let clicked = 0
  it('starts a template from nothing and takes the columns of a sheet as its data', async () => {
    clicked = clicks()
    await page.goto(`${running.url}/templates`)
    await page.getByRole('button', { name: 'New template' }).click()
    await page.getByLabel('Title').fill('Queen delivery')
    await page.getByRole('button', { name: 'Create template' }).click()
    await text().getByText('Queen delivery').waitFor()
    await page.getByLabel('Source of the proof').selectOption({ label: 'colony-sales-2027.csv' })
    await panel('Data')
    await page.getByRole('button', { name: /Take columns of colony-sales/ }).click()
    await page.getByText(/fields taken from colony-sales/).waitFor()
    await page.getByRole('button', { name: /^Lots/ }).waitFor()
    await saved()
    const { outline } = await draft('Queen delivery')
    expect(outline.find(({ name }) => name === 'lots')?.items?.map(({ name }) => name)).to.include.members([
      'item_',
      'price',
      'quantity',
    ])
    expect(outline.find(({ name }) => name === 'day_of_handover')?.type).to.equal('date')
  })

  it('renames a field everywhere, and makes a list one of priced items', async () => {
    await page.getByRole('button', { name: /^Buyer/ }).click()
    await page.getByLabel('Name in the text').fill('buyer_name')
    await page.keyboard.press('Enter')
    await page.getByText(/“buyer” is “buyer_name” now/).waitFor()
    await page.getByRole('button', { name: /^Buyer/ }).click()
    await page.getByRole('button', { name: /^Lots/ }).click()
    await page.getByLabel(/priced items/).check()
    await page.getByText('that come by themselves').waitFor()
    await saved()
    expect((await draft('Queen delivery')).outline.find(({ name }) => name === 'lots')?.lineItems).to.include(
      {
        price: 'price',
        quantity: 'quantity',
        discount: 'discount',
        taxRate: 'tax',
      },
    )
  })

  it('says who signs', async () => {
    await panel('Roles')
    await page.getByRole('button', { name: 'Role', exact: true }).click()
    await page.getByLabel('Role', { exact: true }).fill('Buyer')
    await page.getByLabel('Found').selectOption('from the record')
    await page.getByLabel('Name from').selectOption('Contact')
    await page.getByLabel('Email address from').selectOption('Contact mail address')
    await page.getByRole('button', { name: 'Role', exact: true }).click()
    await page.getByLabel('Role', { exact: true }).nth(1).fill('Larkmere')
    await page.getByLabel('Found').nth(1).selectOption('whoever sends')
    await saved()
    expect((await draft('Queen delivery')).roles.map(({ label }) => label)).to.deep.equal([
      'Buyer',
      'Larkmere',
    ])
  })

  it('writes clauses, a condition, a repeat, a phrase, a reference, blanks and signatures from the keyboard', async () => {
    await panel('Text')
    await text().locator('p').first().click()
    await page.keyboard.type('Between Larkmere Pollination and {{')
    await page.getByRole('option', { name: 'Buyer buyer_name' }).click()
    await page.keyboard.type('.')
    await page.keyboard.press('Enter')
    await page.keyboard.press('Control+Alt+c')
    await page.keyboard.type('Delivery. The queens are handed over on {{day_of_handover}}.')
    await page.keyboard.press('Enter')
    await page.keyboard.type('Payment in advance. The price is paid before the handover.')
    await page.getByRole('button', { name: 'Condition', exact: true }).click()
    await page.getByRole('button', { name: 'Row', exact: true }).click()
    await page.getByLabel('Field', { exact: true }).selectOption('Payment')
    await typeCondition('payment = "in advance"')
    await page.getByText(/True for 6 of 18 rows/).waitFor()
    await page.getByRole('button', { name: 'Set', exact: true }).click()
    await page.getByRole('button', { name: /only where payment is in advance/ }).waitFor()
    await text().getByText('The price is paid before').click()
    await page.keyboard.press('Control+End')
    await page.keyboard.press('Enter')
    await page.keyboard.type('What is sold. These lots are sold:')
    await page.keyboard.type(' ')
    await insert('table of lots', 'Table of lots')
    await text().locator('table .merge-field[data-field="lots.price"]').waitFor()
    await page.getByRole('button', { name: 'for each of lots', exact: true }).waitFor()
    await text().getByText('The queens are handed over').click()
    await page.keyboard.press('End')
    await page.keyboard.type(' See clause ')
    await insert('reference', 'Reference to a clause')
    await page
      .getByRole('dialog')
      .getByRole('button', { name: /What is sold/ })
      .click()
    await text().locator('.clause-reference').waitFor()
    await text().getByText('Between Larkmere').click()
    await page.keyboard.press('End')
    await page.keyboard.type(' Counted: ')
    await insert('number of buyer', 'number of Buyer')
    await page.keyboard.press('Control+End')
    await text().getByText('The queens are handed over').click()
    await page.keyboard.press('End')
    await page.keyboard.type(' ')
    await insert('signatures', 'Signatures of everyone')
    await text().locator('.signature-places').waitFor()
    await saved()
    expect(await text().locator('.clause-reference').getAttribute('data-number')).to.equal('3')
    expect(clicks() - clicked, 'clicks for the whole template').to.be.below(90)
  })

  it('proofs it on three rows, with the repeat, the condition and the totals following each', async () => {
    const names: string[] = []
    for (let i = 0; i < 3; i++) {
      await proof().locator('[data-page="1"] canvas').waitFor()
      const row = proof().locator('[aria-live="polite"]').first()
      const name = await eventually(
        () => row.textContent().then((text) => text !== names.at(-1) && text),
        'a row',
      )
      names.push(name)
      await page.keyboard.press('Alt+ArrowRight')
    }
    expect(new Set(names).size).to.equal(3)
    expect(names[0]).to.contain('Row 2')
    await panel('Data')
    await page.getByText(/that come by themselves/).click()
    await page.getByText('Lots, total with tax').waitFor()
    await panel('Text')
  })

  it('finds a row by its words, and the row with the longest value of a field', async () => {
    await proof().getByRole('button', { name: 'Find a row' }).click()
    await page.getByLabel('Words in the row').fill('Marlpit')
    await page
      .getByRole('listitem')
      .getByRole('button', { name: /Marlpit Gardens/ })
      .first()
      .click()
    await proof().getByText('Row 5').first().waitFor()
    await proof().getByRole('button', { name: 'Find a row' }).click()
    await page.getByRole('combobox', { name: 'Longest' }).selectOption({ label: 'Buyer' })
    await proof().getByText('Row 6').first().waitFor()
  })

  it('lists what is wrong with a jump to it, and undoes anything', async () => {
    await text().getByText('The queens are handed over').click()
    await page.keyboard.press('End')
    await page.keyboard.type(' On {{day_of_handovr}}')
    await page.getByRole('tab', { name: /checks \d/i }).click()
    const list = page.getByRole('region', { name: 'Checks' })
    expect(await list.getByRole('heading', { name: /Errors/ }).textContent()).to.contain('1 error,')
    await page.getByRole('button', { name: /There is no field “day_of_handovr”/ }).click()
    await text().locator('.merge-field.unknown').waitFor()
    await page.getByLabel('Margin notes').getByText('There is no field “day_of_handovr”.').waitFor()
    expect(await page.getByRole('button', { name: /Publish/ }).isDisabled()).to.equal(true)
    await text().focus()
    await undoUntil(async () => (await text().locator('.merge-field.unknown').count()) === 0)
    await text().locator('.merge-field.unknown').waitFor({ state: 'detached' })
    await panel('Roles')
    await page.getByRole('button', { name: 'Leave out' }).nth(1).click()
    await page.getByText(/^Saved/).click()
    await page.keyboard.press('Control+z')
    await page.getByLabel('Role', { exact: true }).nth(1).waitFor()
    await panel('Text')
    await saved()
  })

  it('takes in what is pasted from office programs: structure stays, junk goes, too much is refused', async () => {
    const paste = (html: string) =>
      text().evaluate((element, markup) => {
        const data = new DataTransfer()
        data.setData('text/html', markup)
        data.setData('text/plain', 'plain words')
        element.dispatchEvent(
          new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }),
        )
      }, html)
    await text().getByText('Between Larkmere').click()
    await page.keyboard.press('End')
    await page.keyboard.press('Enter')
    await paste(
      `<html><head><style>p {color: red}</style></head><body><h2 style="mso-x:1">Pasted title</h2>
      <p class=MsoListParagraph style='mso-list:l0 level1 lfo1'><span style='mso-list:Ignore'>1.</span><b>First</b> numbered</p>
      <p class=MsoListParagraph style='mso-list:l0 level2 lfo1'><span style='mso-list:Ignore'>1.1</span>Second level</p>
      <p class=MsoListParagraph style='mso-list:l1 level1 lfo2'><span style='mso-list:Ignore'>·</span>a bullet</p>
      <table><tr><th>Stand</th><td style="text-align: right">24</td></tr></table>
      <script>window.pasted = 1</script><img src="x" onerror="window.pasted = 1"></body></html>`,
    )
    await text().locator('h2', { hasText: 'Pasted title' }).waitFor()
    await text().locator('section.clause section.clause', { hasText: 'Second level' }).waitFor()
    await text().locator('section.clause strong', { hasText: 'First' }).waitFor()
    await text().locator('ul', { hasText: 'a bullet' }).waitFor()
    await text().locator('td', { hasText: '24' }).waitFor()
    expect(await text().innerText()).not.to.match(/mso|1\.1Second/)
    expect(await page.evaluate(() => 'pasted' in window)).to.equal(false)
    await saved()
    await text().focus()
    await page.keyboard.press('Control+z')
    await text().locator('h2', { hasText: 'Pasted title' }).waitFor({ state: 'detached' })
    await paste(`<p>${'<b>x</b>'.repeat(1_400_000)}</p>`)
    await page.getByText(/larger than two million characters/).waitFor()
    await page.getByRole('button', { name: 'Dismiss' }).first().click()
    await undoUntil(async () => !(await text().innerText()).includes('plain words'))
    await saved()
  })

  it('keeps a case, publishes, sees the case fail after a change, and compares the draft with the edition', async () => {
    await panel('Cases')
    await page.getByLabel('Name of the case').fill('The long name')
    await page.getByRole('button', { name: 'Keep as a case' }).click()
    await page.getByText('as it must be').waitFor()
    await page.getByRole('button', { name: 'Publish edition 1' }).click()
    await page.getByRole('dialog').getByRole('button', { name: 'Publish edition 1' }).click()
    await page.getByText('Edition 1 is published').waitFor()
    await panel('Text')
    await text()
      .getByText('The queens are handed over')
      .dblclick({ position: { x: 5, y: 8 } })
    await text().getByText('Between Larkmere').click()
    await page.keyboard.press('Home')
    await page.keyboard.type('Made ')
    await panel('Cases')
    await page.getByText('gives another wording', { exact: true }).waitFor()
    await page.getByRole('button', { name: 'The long name', exact: true }).click()
    await page.locator('ins', { hasText: 'Made' }).first().waitFor()
    await panel('Editions')
    await page
      .getByRole('status')
      .getByText(/1 passage and 0 settings differ/)
      .waitFor()
    await page.locator('ins', { hasText: 'Made' }).waitFor()
    await page.getByRole('button', { name: /Bring edition 1 back/ }).click()
    await page.getByText('edition 1 and the draft say the same').waitFor()
    await saved()
  })

  it('tells the second of two writers, who compares and loses nothing', async () => {
    const second = await openBrowser()
    const other = await second.page()
    await signIn(other, running.url, 'Maren Oakes')
    await other.goto(page.url().replace(/\?.*/, ''))
    await other.getByRole('textbox', { name: 'Template text' }).getByText('Between Larkmere').click()
    await other.keyboard.press('End')
    await other.keyboard.type(' First writer.')
    await other.getByText(/^Saved/).waitFor()
    await panel('Text')
    await text().getByText('Between Larkmere').click()
    await page.keyboard.press('End')
    await page.keyboard.type(' Second writer.')
    await page
      .getByText(/Maren Oakes saved this draft/)
      .first()
      .waitFor()
    await page.getByRole('button', { name: 'Compare' }).click()
    await page.getByRole('dialog').locator('ins', { hasText: 'Second' }).waitFor()
    await page.getByRole('dialog').locator('del', { hasText: 'First' }).waitFor()
    await page.keyboard.press('Escape')
    await page.getByRole('button', { name: 'Use their draft' }).click()
    await text().getByText('First writer.').waitFor()
    await saved()
    expect(second.complaints).to.deep.equal([])
    await second.close()
  })

  it('keeps a clause in the library and takes it into another template, linked', async () => {
    await text().getByText('The price is paid').click()
    await page.keyboard.press('End')
    await page.keyboard.type(' ')
    await insert('save this clause', 'Save this clause to the library')
    await page.getByLabel('Title of the clause').fill('Paid ahead')
    await page.getByRole('button', { name: 'Save to library' }).click()
    await page.getByText('“Paid ahead” is in the library').waitFor()
    await page.getByRole('button', { name: /linked to the library, edition 1/ }).waitFor()
    await saved()
    await page.goto(`${running.url}/templates/library`)
    await page.getByRole('button', { name: /Paid ahead/ }).click()
    await page.getByRole('link', { name: 'Queen delivery' }).waitFor()
    await text().getByText('The price is paid').click()
    await page.keyboard.press('End')
    await page.keyboard.type(' It is paid to {{')
    await page.getByRole('option', { name: 'Buyer buyer_name' }).click()
    await page.getByRole('button', { name: 'Condition', exact: true }).click()
    await typeCondition('payment = "in advance" and count(lots) > 1')
    await page.getByRole('button', { name: 'Set', exact: true }).click()
    await page.getByRole('button', { name: /only where payment/ }).waitFor()
    await page.getByRole('button', { name: 'Save as edition 2' }).click()
    await page.getByText(/can take it over: Queen delivery/).waitFor()
    await page.getByText('edition 2 is not taken over').waitFor()
  })

  it('exports DOCX and brings its own document back in', async () => {
    await page.goto(`${running.url}/templates`)
    await page.getByText('Queen delivery').click()
    await text().getByText('Between Larkmere').waitFor()
    const download = page.waitForEvent('download')
    await page.getByRole('link', { name: 'DOCX' }).click()
    const path = (await (await download).path())!
    const zip = await JSZip.loadAsync(await readFile(path))
    expect(await zip.file('word/document.xml')!.async('string')).to.contain('MERGEFIELD buyer_name')
    await page.goto(`${running.url}/templates`)
    await page.getByLabel('DOCX file').setInputFiles({
      name: 'Queen delivery again.docx',
      mimeType: 'application/vnd.openxmlformats-officedocument.wordprocessingml.document',
      buffer: await readFile(path),
    })
    await text().getByText('Between Larkmere').waitFor({ state: 'attached' })
    const { rows } = await running.app.pool.query<{ draft: TemplateContent }>(
      'select draft from template order by changed_at desc limit 1',
    )
    const before = await draft('Queen delivery')
    const again = rows[0]!.draft
    expect(again.outline).to.deep.equal(before.outline)
    expect(again.roles).to.deep.equal(before.roles)
    const kinds = (content: TemplateContent) =>
      content.document.content.map(({ type, attrs }) => [type, attrs.condition])
    expect(kinds(again)).to.deep.equal(kinds(before).filter(([type]) => type !== 'paragraph' || true))
  })

  it('puts a template on a shelf that others may use but not change', async () => {
    await page.context().clearCookies()
    await signIn(page, running.url, 'Petra Vance')
    await page.goto(`${running.url}/templates`)
    await page.getByText('Colony sale', { exact: true }).click()
    await page.getByText('Read only').waitFor()
    expect(await page.getByRole('button', { name: /Publish/ }).count()).to.equal(0)
    expect(await text().getAttribute('contenteditable')).to.equal('false')
  })
})
