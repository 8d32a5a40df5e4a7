import { expect } from 'chai'
import { Document, Packer, Paragraph, TextRun } from 'docx'
import type { Locator, Page } from 'playwright-core'
import { siteAccessPdf } from '#demo/forms/site-access.ts'
import { named, roleOf } from '#demo/season-packet.ts'
import { violations } from '#test/support/axe.ts'
import type { Browser } from '#test/support/browser.ts'
import { Client, eventually } from '#test/support/client.ts'
import { pagesIn, wordsByPoppler } from '#test/support/forms.ts'
import { openedApp } from '#test/support/opened-app.ts'
import type { Running } from '#test/support/running.ts'
import { linkIn } from '#test/support/signing.ts'
import { seasonSheet, signAs } from '#test/support/story.ts'

const pdf = (name: string, buffer: Uint8Array) => ({
  name,
  mimeType: 'application/pdf',
  buffer: Buffer.from(buffer),
})

describe('forms, through the real interface', function () {
  this.timeout(240_000)
  let running: Running
  let browser: Browser
  let page: Page
  let ines: Client
  let form = ''
  openedApp('forms', { as: 'Ines Hallow', sheet: false, story: true }, async (all) => {
    ;({ running, browser, page } = all)
    ines = await Client.signedIn(running.url, 'ines.hallow')
  })

  const draft = async () => (await ines.call('template', { params: { id: form } })).draft
  const placements = async () => pagesIn(await draft()).content.flatMap(({ content }) => content)
  const kept = async () => {
    await page.keyboard.press('Control+s')
    await page.getByText(/^Saved/).waitFor()
  }
  /** A point of the first page's sheet, in points of the page. */
  const clickAt = async (sheet: Locator, x: number, y: number) => {
    const box = (await sheet.boundingBox())!
    await page.mouse.click(box.x + (x / 612) * box.width, box.y + (y / 792) * box.height)
  }
  const sheet = (nth = 1) => page.getByRole('group', { name: `Page ${nth}`, exact: true })

  it('lays a form over a PDF: the pointer is where the place goes, by one key each', async () => {
    await page.goto(`${running.url}/templates`)
    await page
      .getByLabel('Pages of the form')
      .setInputFiles(pdf('Permission to enter.pdf', await siteAccessPdf()))
    await page.getByLabel('A new form with no places yet').check()
    await page.getByLabel('Title').fill('Permission to enter')
    await page.getByRole('button', { name: 'Create form' }).click()
    await sheet().locator('canvas').waitFor()
    form = /templates\/([\w-]{36})/.exec(page.url())![1]!
    // Roles and data as their panels make them.
    const { draftVersion } = await ines.call('template', { params: { id: form } })
    await ines.call('saveDraft', {
      params: { id: form },
      body: {
        version: draftVersion,
        content: {
          ...(await draft()),
          outline: named(['grower.name', 'grower.contact', 'grower.email', 'colonies']),
          roles: roleOf('grower'),
        },
      },
    })
    await page.reload()
    await sheet().locator('canvas').waitFor()
    await clickAt(sheet(), 200, 141)
    await page.getByRole('menu', { name: 'What stands here' }).waitFor()
    await page.keyboard.press('v')
    await page.getByLabel('Find a field').fill('grower.name')
    await page.keyboard.press('Enter')
    await clickAt(sheet(), 80, 470)
    // The first click after something was chosen lets go of it.
    if (!(await page.getByRole('menu', { name: 'What stands here' }).isVisible()))
      await clickAt(sheet(), 80, 470)
    await page.keyboard.press('1')
    await page.keyboard.press('s')
    await kept()
    const placed = await placements()
    expect(placed.map(({ content }) => content[0]!.type)).to.deep.equal(['mergeField', 'blank'])
    // The pointer was in the middle line of what was placed, unless a line of the page held it.
    const { x, y, height } = placed[1]!.attrs
    expect(x).to.be.closeTo(80, 9)
    expect(y + height / 2).to.be.closeTo(470, 12)
    expect(await violations(page)).to.deep.equal([])
  })

  it('moves, aligns, nudges and takes back what was placed, with hands and with keys alone', async () => {
    const [name] = await placements()
    const first = page.locator(`[data-placement="${name!.attrs.id}"]`)
    const box = (await first.boundingBox())!
    await page.mouse.move(box.x + 20, box.y + 5)
    await page.mouse.down()
    await page.keyboard.down('Alt')
    await page.mouse.move(box.x + 50, box.y + 45, { steps: 4 })
    await page.mouse.up()
    await page.keyboard.up('Alt')
    const scale = (await sheet().boundingBox())!.width / 612
    await kept()
    const moved = (await placements())[0]!.attrs
    expect(moved.x - name!.attrs.x).to.be.closeTo(30 / scale, 0.5)
    expect(moved.y - name!.attrs.y).to.be.closeTo(40 / scale, 0.5)
    await page.keyboard.press('ArrowLeft')
    await page.keyboard.press('Shift+ArrowUp')
    await kept()
    expect((await placements())[0]!.attrs.x).to.be.closeTo(moved.x - 1, 0.01)
    expect((await placements())[0]!.attrs.y).to.be.closeTo(moved.y - 10, 0.01)
    for (let i = 0; i < 2; i++) await page.getByRole('button', { name: 'Undo (Ctrl Z)' }).click()
    await kept()
    expect((await placements())[0]!.attrs.x).to.be.closeTo(name!.attrs.x, 0.01)
    // Keys alone: to the next place, a copy of it, away with the copy.
    await page.getByRole('application').focus()
    await page.keyboard.press('Tab')
    await page.keyboard.press('Control+d')
    await kept()
    expect(await placements()).to.have.length(3)
    await page.keyboard.press('Delete')
    await kept()
    expect(await placements()).to.have.length(2)
  })

  it('finds likely blanks and takes them one by one or all, each undoable', async () => {
    await page.getByRole('button', { name: 'Likely blanks' }).click()
    const bar = page.getByRole('region', { name: 'Likely blanks' })
    await bar.getByText(/likely blanks found/).waitFor()
    await page.getByRole('button', { name: 'Take Gate code as text' }).click()
    await bar.getByRole('button', { name: 'Take all' }).click()
    await bar.getByText('No likely blank is left.').waitFor()
    await kept()
    const all = (await placements()).length
    expect(all).to.be.greaterThan(8)
    await page.getByRole('button', { name: 'Undo (Ctrl Z)' }).click()
    await kept()
    expect((await placements()).length).to.equal(3)
    await bar.getByRole('button', { name: 'Done' }).click()
  })

  it('keeps a signature beside its words in a version two pages longer, and shows where everything went', async () => {
    await page.getByRole('button', { name: /^Signature, signature of/ }).click()
    await page.getByRole('button', { name: 'keep distance to …' }).click()
    await page.getByLabel('Phrase on the page').fill('signature of the grower')
    await page.getByText('Stands once, on page 1.').waitFor()
    await page.getByRole('button', { name: 'Keep the distance' }).click()
    await kept()
    const before = (await placements()).find(({ content }) => content[0]!.type === 'blank')!.attrs
    await page.getByLabel('Other version of the file').or(page.getByLabel('File to add')).count()
    const [chooser] = await Promise.all([
      page.waitForEvent('filechooser'),
      page.getByRole('button', { name: 'Other version of the file, in its place' }).click(),
    ])
    await chooser.setFiles(pdf('Permission, second version.pdf', await siteAccessPdf(2)))
    const dialog = page.getByRole('dialog', { name: 'The other version' })
    await dialog.getByText('page 1 → 3').waitFor()
    expect(await violations(page)).to.deep.equal([])
    await dialog.getByRole('button', { name: 'Take the other version' }).click()
    await kept()
    const pages = pagesIn(await draft()).content
    expect(pages).to.have.length(3)
    const after = pages[2]!.content.find(({ attrs }) => attrs.id === before.id)!.attrs
    const proof = await ines.call('proof', {
      body: { templateId: form, content: await draft(), sheetId: null, row: null },
    })
    const words = wordsByPoppler(Buffer.from(proof.pdf!, 'base64'))
    const label = words.filter(({ text, page: at }) => text === 'Signature' && at === 3)[0]!
    const old = wordsByPoppler(await siteAccessPdf()).filter(({ text }) => text === 'Signature')[0]!
    expect(label.y - after.y).to.be.closeTo(old.y - before.y, 0.5)
    expect(label.x - after.x).to.be.closeTo(old.x - before.x, 0.5)
  })

  it('tells of a value that has no room, before anything is sent', async () => {
    const field = (await placements()).find(({ content }) => content[0]!.type === 'mergeField')!
    await page.locator(`[data-placement="${field.attrs.id}"]`).click()
    await page.getByLabel('Width, points').fill('24')
    await page
      .getByText(/“Brightwater Orchard”/)
      .first()
      .waitFor()
    await page.getByLabel('Width, points').fill('180')
    await kept()
  })

  it('takes the places out of a DOCX that says by its markers what stands where', async () => {
    const line = (text: string) => new Paragraph({ children: [new TextRun(text)] })
    const document = new Document({
      sections: [
        {
          children: [
            line('Note for {{grower.name}}'),
            line('Seen: {{blank initials grower "Seen by the owner"}}'),
          ],
        },
      ],
    })
    await page.goto(`${running.url}/templates`)
    await page.getByLabel('Pages of the form').setInputFiles({
      name: 'Short note.docx',
      mimeType: 'application/vnd.openxmlformats-officedocument.wordprocessingml.document',
      buffer: await Packer.toBuffer(document),
    })
    await page.getByRole('button', { name: 'Create form' }).click({ timeout: 60_000 })
    await page.getByRole('button', { name: 'Seen by the owner, initials of Grower' }).waitFor()
    const id = /templates\/([\w-]{36})/.exec(page.url())![1]!
    const made = await ines.call('template', { params: { id } })
    expect(made.draft.outline.map(({ name }) => name)).to.deep.equal(['grower.name'])
    // The role was only named: who fills it is said as the other form says it.
    await ines.call('saveDraft', {
      params: { id },
      body: {
        version: made.draftVersion,
        content: {
          ...made.draft,
          outline: named(['grower.name', 'grower.contact', 'grower.email']),
          roles: roleOf('grower'),
        },
      },
    })
    await ines.call('publish', { params: { id }, body: { version: made.draftVersion + 1 } })
  })

  it('joins both in a packet, runs it over twenty rows, and it is signed in one sitting', async () => {
    const { draftVersion } = await ines.call('template', { params: { id: form } })
    await ines.call('publish', { params: { id: form }, body: { version: draftVersion } })
    await page.goto(`${running.url}/templates/packets`)
    await page.getByRole('button', { name: 'New packet' }).click()
    await page.getByLabel('Name', { exact: true }).fill('Permission and note')
    for (const name of ['Permission to enter', 'Short note'])
      await page.getByLabel('Add a template').selectOption(name)
    await page.getByRole('button', { name: 'Save packet' }).click()
    const packet = await eventually(
      async () => (await ines.call('packets')).find(({ name }) => name === 'Permission and note'),
      'the packet',
    )
    const uploaded = await ines.call('uploadSheet', { query: { name: 'rows.csv' }, body: seasonSheet(20) })
    const { id: run } = await ines.call('startRun', {
      body: { name: 'Permissions', packetId: packet.id, sheetId: uploaded.id },
    })
    const inState = (state: string) =>
      eventually(async () => (await ines.call('run', { params: { id: run } })).state === state, state, 90)
    await inState('checked')
    await ines.call('generate', { params: { id: run } })
    await inState('generated')
    await page.goto(`${running.url}/runs/${run}`)
    await page
      .getByText(/20 agreements/)
      .first()
      .waitFor()
    const { agreements } = await ines.call('agreements', { query: { run } })
    expect(agreements).to.have.length(20)
    const made = await ines.call('agreement', { params: { id: agreements[0]!.id } })
    await ines.call('sendAgreements', { body: { agreements: [made.id], unread: true, at: null } })
    const grower = made.parties.find(({ label }) => label === 'Grower')!
    const token = await linkIn(ines, grower.email)
    const visitor = await browser.page()
    await visitor.goto(`${running.url}/sign/${token}`)
    await visitor
      .getByText(/Larkmere Pollination/)
      .first()
      .waitFor()
    await visitor.close()
    const signer = new Client(running.url)
    expect(
      (await signer.call('signing', { params: { token } })).blanks.map(({ label }) => label),
    ).to.have.members(['Gate code', 'Signature', 'Seen by the owner'])
    await signAs(signer, token, { 'Gate code': '4711' })
    await eventually(
      async () => (await ines.call('agreement', { params: { id: made.id } })).state === 'executed',
      'executed',
      60,
    )
  })
})
