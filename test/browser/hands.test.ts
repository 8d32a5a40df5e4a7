import { expect } from 'chai'
import type { Page } from 'playwright-core'
import type { DocumentTree } from '#core/document/tree.ts'
import { signIn } from '#test/support/browser.ts'
import { Client, eventually } from '#test/support/client.ts'
import { openedApp } from '#test/support/opened-app.ts'
import type { Running } from '#test/support/running.ts'
import { seasonSheet } from '#test/support/story.ts'
import { lost, modelTemplate } from '#test/support/studio-acts.ts'
import { writtenIn } from '#test/support/bodies.ts'

// Stories that do not hang on each other: each has its own template, record or run.

describe('hands at work, through the real interface', () => {
  let running: Running
  let page: Page
  let ines: Client

  const text = () => page.getByRole('textbox', { name: 'Template text' })
  const draft = async (id: string) => (await ines.call('template', { params: { id } })).draft
  /** A template of its own in the studio. */
  const opened = async (title: string): Promise<string> => {
    const { id } = await ines.call('startTemplate', { body: { title, shelf: null, from: null } })
    const { draftVersion } = await ines.call('template', { params: { id } })
    await ines.call('saveDraft', {
      params: { id },
      body: { version: draftVersion, content: modelTemplate(title) },
    })
    await page.goto(`${running.url}/templates/${id}`)
    await text().getByText('Model a001').waitFor()
    return id
  }
  /** What is kept after Ctrl S. */
  const kept = async (id: string): Promise<DocumentTree> => {
    await page.keyboard.press('Control+s')
    await page.getByText(/^Saved/).waitFor()
    return writtenIn((await draft(id)).document)
  }
  const order = (document: DocumentTree) =>
    document.content.map((block) => /"text":"[^"]*([a-f]00\d)/.exec(JSON.stringify(block))?.[1] ?? block.type)

  openedApp('hands', { sheet: false, as: 'Ines Hallow' }, async (all) => {
    ;({ running, page } = all)
    ines = await Client.signedIn(running.url, 'ines.hallow')
  })

  it('choose from the menus by Enter and Tab inside a clause, which is neither split nor moved', async () => {
    const id = await opened('Menus by key')
    await text().getByText('Keep d002.').click()
    await page.keyboard.press('End')
    for (const key of ['Enter', 'Tab']) {
      await page.keyboard.type(' {{gro')
      await page
        .getByRole('option', { name: /^Grower/ })
        .first()
        .waitFor()
      await page.keyboard.press(key)
    }
    await page.keyboard.type(' /reference')
    await page.getByRole('option', { name: /Reference to a clause/ }).waitFor()
    await page.keyboard.press('Enter')
    await page
      .getByRole('dialog')
      .getByRole('button', { name: /Colonies/ })
      .click()
    const document = await kept(id)
    const clause = document.content.find((block) => JSON.stringify(block).includes('d002'))!
    expect(clause.type).to.equal('clause')
    const [line] = (clause as { content: readonly { content?: readonly { type: string }[] }[] }).content
    expect(line!.content!.map(({ type }) => type).filter((type) => type !== 'text')).to.deep.equal([
      'mergeField',
      'mergeField',
      'reference',
    ])
    expect(document.content).to.have.length(modelTemplate('').document.content.length)
  })

  it('cut and paste clauses with their conditions, drag them in the outline, and move them by keys and by name', async () => {
    const id = await opened('Moving clauses')
    const first = await draft(id)
    await text().getByText('Dear c001.').click()
    await page.keyboard.press('Home')
    await page.keyboard.down('Shift')
    await text().getByText('Cheap c003.').click()
    await page.keyboard.press('End')
    await page.keyboard.up('Shift')
    await page.keyboard.press('Control+x')
    await text().getByText('At the end f001.').click()
    await page.keyboard.press('End')
    await page.keyboard.press('Control+v')
    let now = await kept(id)
    expect(lost(writtenIn(first.document), now)).to.deep.equal([])
    expect(order(now)).to.deep.equal([
      'a001',
      'b001',
      'd001',
      'd002',
      'e001',
      'f001',
      'c001',
      'c002',
      'c003',
      'signatureBlock',
    ])
    // Alternatives move together.
    await text().getByText('Fair c002.').click()
    await page.keyboard.press('Alt+Shift+ArrowUp')
    await page.keyboard.press('Control+k')
    await page.keyboard.type('move the clause up')
    await page.keyboard.press('Enter')
    await page.getByRole('listbox', { name: 'Found' }).waitFor({ state: 'detached' })
    await eventually(async () => {
      now = await kept(id)
      return order(now).indexOf('c002') === 5
    }, 'the clause to move')
    expect(order(now)).to.deep.equal([
      'a001',
      'b001',
      'd001',
      'd002',
      'c001',
      'c002',
      'c003',
      'e001',
      'f001',
      'signatureBlock',
    ])
    await page.getByRole('button', { name: 'Clause outline' }).click()
    const outline = page.getByRole('navigation', { name: 'Clauses' })
    await outline.getByText('Initials e001').dragTo(outline.getByText('Colonies b001'), {
      targetPosition: { x: 20, y: 2 },
    })
    now = await kept(id)
    expect(order(now).slice(0, 3)).to.deep.equal(['a001', 'e001', 'b001'])
    expect(lost(writtenIn(first.document), now)).to.deep.equal([])
    while (await page.getByRole('button', { name: 'Undo (Ctrl Z)' }).isEnabled())
      await page.getByRole('button', { name: 'Undo (Ctrl Z)' }).click()
    expect(order(await kept(id))).to.deep.equal(order(writtenIn(first.document)))
    await page.getByRole('button', { name: 'Clause outline' }).click()
  })

  it('go on writing after a blank, and after the signatures, which stay', async () => {
    const id = await opened('Going on')
    await text().getByText('At the end f001.').click()
    await page.keyboard.press('End')
    await page.getByRole('button', { name: 'Blank', exact: true }).click()
    await page.getByRole('button', { name: 'Insert', exact: true }).click()
    await page.keyboard.type(' and on')
    await text().getByText('Keep d002.').click()
    await page.keyboard.press('End')
    await page.keyboard.press('Enter')
    await page.keyboard.type('/signatures')
    await page.getByRole('option', { name: 'Signatures of everyone' }).waitFor()
    await page.keyboard.press('Enter')
    await page.keyboard.press('Backspace')
    const document = JSON.stringify(await kept(id))
    expect(document).to.contain(' and on')
    expect(document.split('"signatureBlock"')).to.have.length(3)
  })

  it('are told what to write where a formula is none, and what still looks like a field', async () => {
    await opened('Formulas')
    await page.getByRole('tab', { name: 'Data' }).click()
    await page.getByRole('button', { name: /^Fee/ }).click()
    await page.getByLabel('computed').check()
    await page.getByRole('textbox', { name: 'Formula' }).fill('=10% + 1')
    await page.getByRole('button', { name: 'Write', exact: true }).click()
    await page.getByText('10 / 100 + 1').first().waitFor()
    expect(await page.getByRole('button', { name: 'Write', exact: true }).count()).to.equal(0)
    await page.getByRole('tab', { name: 'Text' }).click()
    await text().getByText('At the end f001.').click()
    await page.keyboard.press('End')
    await page.keyboard.type(' {{nothing of that')
    await page.keyboard.press('Escape')
    await page.getByRole('tab', { name: /checks/i }).click()
    await page.getByRole('region', { name: 'Checks' }).getByText('is printed as it stands').waitFor()
  })

  it('paste what others have made up about passages, and only what can be is taken in', async () => {
    const id = await opened('Made up')
    await text().getByText('At the end f001.').click()
    await page.keyboard.press('End')
    const carried = (said: object) => JSON.stringify(said).replaceAll('"', '&quot;')
    const html = `<div data-pm-slice="0 0 []"><section class="clause" data-carried="${carried({
      id: 'no id at all',
      condition: 12,
      alternative: 'yes',
      repeat: { of: 'lots' },
      source: { clause: 'x' },
    })}"><div class="clause-body"><p data-carried="{not json">Words g001 <span class="blank-place" data-blank="x" data-carried="${carried(
      { kind: 'explosive', role: ['grower'], options: 'many', condition: 'x'.repeat(9000) },
    )}">x</span> <span class="merge-field" data-field="">y</span></p></div></section></div>`
    await text().evaluate((element, pasted) => {
      const data = new DataTransfer()
      data.setData('text/html', pasted)
      element.dispatchEvent(
        new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }),
      )
    }, html)
    await text().getByText('Words g001').waitFor()
    const found = (await kept(id)).content.find((block) => JSON.stringify(block).includes('g001'))!
    expect(found.type).to.equal('clause')
    expect(found.attrs).to.include({ condition: null, alternative: false, repeat: null })
    // A blank of nobody is none, and a field without a name neither.
    expect(JSON.stringify(found)).not.to.contain('"blank"').and.not.to.contain('"mergeField"')
  })

  it('rename a field by what it is called, and the template where its title stands', async () => {
    const id = await opened('Old title')
    await page.getByRole('button', { name: 'Old title, rename' }).click()
    await page.keyboard.type('New title')
    await page.keyboard.press('Enter')
    await page.getByRole('tab', { name: 'Data' }).click()
    await page.getByRole('button', { name: 'Field', exact: true }).click()
    // The form has the caret: one types what the field is called, and goes on.
    await page.keyboard.type('Moving day')
    await page.keyboard.press('Tab')
    await page
      .getByRole('button', { name: /^Moving day/ })
      .getByText('moving_day')
      .waitFor()
    await kept(id)
    const { title, outline } = await draft(id)
    expect(title).to.equal('New title')
    expect(outline.map(({ name }) => name)).to.include('moving_day')
  })

  it('leave a record that saves itself, and find what could not be saved where it was entered', async () => {
    const { id } = await ines.call('makeRecord', {
      params: { kind: 'customer' },
      body: { data: { name: 'Otterford Fruit Farm', legal_form: 'LLC' }, customer: null },
    })
    const record = async () => (await ines.call('record', { params: { kind: 'customer', id } })).data
    await page.goto(`${running.url}/records/customers/${id}`)
    await page.getByLabel('Legal form', { exact: true }).fill('Cooperative')
    await page.getByRole('link', { name: 'Runs', exact: true }).click()
    await page.getByText('Otterford Fruit Farm is saved.').waitFor()
    expect(await record()).to.include({ legal_form: 'Cooperative' })
    await page.goBack()
    await page.getByLabel('E-mail', { exact: true }).fill('nobody')
    await page.getByRole('link', { name: 'Runs', exact: true }).click()
    await page.getByText(/could not be saved/).waitFor()
    await page.goBack()
    expect(await page.getByLabel('E-mail', { exact: true }).inputValue()).to.equal('nobody')
    await page.getByLabel('E-mail', { exact: true }).fill('otter@ford.example')
    await page.getByRole('button', { name: 'Save', exact: true }).click()
    await eventually(async () => (await record())['email'] === 'otter@ford.example', 'the record')
  })

  it('are asked before they sign out with something unsaved, which the next person does not meet', async () => {
    const { id } = await ines.call('makeRecord', {
      params: { kind: 'customer' },
      body: { data: { name: 'Sedge Hill Fruit', legal_form: 'LLC' }, customer: null },
    })
    const record = async () => (await ines.call('record', { params: { kind: 'customer', id } })).data
    const email = page.getByLabel('E-mail', { exact: true })
    const away = async () => {
      await page.getByRole('button', { name: /^Ines Hallow/ }).click()
      await page.getByRole('menuitem', { name: 'Sign out' }).click()
    }
    await page.goto(`${running.url}/records/customers/${id}`)
    await page.getByLabel('Legal form', { exact: true }).fill('Cooperative')
    await email.fill('nobody')
    await away()
    await page.getByRole('button', { name: 'Stay signed in' }).click()
    expect(await email.inputValue()).to.equal('nobody')
    await email.fill('')
    await away()
    await page.getByRole('button', { name: 'Sign in', exact: true }).waitFor()
    expect(await record(), 'what could be saved').to.include({ legal_form: 'Cooperative' })
    await signIn(page, running.url, 'Ines Hallow')
    await page.goto(`${running.url}/records/customers/${id}`)
    await email.fill('nobody')
    await away()
    await page.getByRole('dialog').getByRole('button', { name: 'Sign out' }).click()
    await page.getByRole('button', { name: /^Jonah Teel/ }).click()
    await page.getByRole('navigation', { name: 'Areas' }).waitFor()
    await page.evaluate((to) => {
      history.pushState(null, '', to)
      dispatchEvent(new PopStateEvent('popstate'))
    }, `/records/customers/${id}`)
    await email.waitFor()
    expect(await email.inputValue()).to.equal('')
  })

  it('change two sources in quick succession, and both are kept', async () => {
    const sheet = await ines.call('uploadSheet', { query: { name: 'quick.csv' }, body: seasonSheet(6) })
    const season = (await ines.call('templates')).find(({ name }) => name.startsWith('Season'))!
    const { id } = await ines.call('startRun', {
      body: { name: 'Quick', templateId: season.id, sheetId: sheet.id },
    })
    await page.goto(`${running.url}/runs/${id}?view=set-up`)
    await page.getByLabel('Source of Legal form').waitFor()
    // Both before the server can have answered the first.
    await page.evaluate(() => {
      for (const [label, value] of [
        ['Source of Legal form', 'Contact'],
        ['Source of County', 'State'],
      ] as const) {
        const select = document.querySelector<HTMLSelectElement>(`select[aria-label="${label}"]`)!
        Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value')!.set!.call(select, value)
        select.dispatchEvent(new Event('change', { bubbles: true }))
      }
    })
    const mapping = await eventually(async () => {
      const setup = await ines.call('runSetup', { params: { id } })
      return setup.mapping['orchard.county'] === 'State' && setup.mapping
    }, 'the second change')
    expect(mapping['grower.legal_form']).to.equal('Contact')
  })

  it('find out where an address leads nowhere', async () => {
    await page.goto(`${running.url}/nowhere/at-all`)
    await page.getByText('There is nothing at this address').waitFor()
    await page.getByRole('link', { name: 'To the desk', exact: true }).click()
    await page.waitForURL('**/desk')
  })
})
