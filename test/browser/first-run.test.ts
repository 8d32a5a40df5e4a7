import { execFile } from 'node:child_process'
import { writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { newFoundingCode } from '#server/services/installation/organisation.ts'
import { Client, eventually } from '#test/support/client.ts'
import { openedApp } from '#test/support/opened-app.ts'
import type { Running } from '#test/support/running.ts'

const SHEET =
  'Buyer,Contact,Contact mail,Fee\r\nSedge Harbor Honey,Ottilie Crane,ottilie.crane@sedge.example,240\r\n'

describe('an installation of one’s own, from an empty database to the first signed agreement', () => {
  let running: Running
  let page: Page

  openedApp('first_run', { demo: false, story: true }, (all) => void ({ running, page } = all))

  const administrator = {
    name: 'Juna Corbin',
    email: 'juna.corbin@tansy.example',
    post: 'contracts',
    password: 'a long enough one',
  }
  const organisation = {
    name: 'Tansy Falls Honey',
    address: '',
    place: 'Tansy Falls',
    language: 'en-US',
    timeZone: 'UTC',
    sender: 'desk@tansy.example',
    synonyms: [],
  }

  it('is founded by nobody who does not know what the server told, and not with what is wrong', async () => {
    const anyone = new Client(running.url)
    await newFoundingCode(running.app)
    const body = { code: 'guessed', organisation, pattern: 'T-{n}', administrator }
    expect((await anyone.refused('found', { body })).status).to.equal(403)
    const wrong = { ...body, pattern: 'T', organisation: { ...organisation, timeZone: 'Tansy' } }
    const { problem } = await anyone.refused('found', { body: wrong })
    expect(problem.faults?.map(({ pointer }) => pointer)).to.have.members([
      '/organisation/timeZone',
      '/pattern',
    ])
  })

  it('begins with a page that makes the organisation and its administrator', async () => {
    await page.goto(`${running.url}/?code=${await newFoundingCode(running.app)}`)
    await page.getByRole('heading', { name: 'Set up Brevan' }).waitFor()
    await page.getByLabel('Name', { exact: true }).fill(organisation.name)
    await page.getByLabel('Emails come from').fill('desk@tansy')
    await page.getByLabel('Place').fill(organisation.place)
    await page.getByLabel('Agreement numbers').fill('T-{n}')
    await page.getByLabel('Your name').fill(administrator.name)
    await page.getByLabel('Your email address').fill(administrator.email)
    await page.getByLabel('Password').fill(administrator.password)
    await page.getByRole('button', { name: 'Create organization' }).click()
    await page.getByText('This is not an email address.', { exact: true }).waitFor()
    await page.getByLabel('Emails come from').fill(organisation.sender)
    await page.getByRole('button', { name: 'Create organization' }).click()
    await page.getByRole('navigation', { name: 'Areas' }).waitFor()
    const again = { code: 'any', organisation, pattern: 'T-{n}', administrator }
    expect((await new Client(running.url).refused('found', { body: again })).status).to.equal(409)
    expect(await newFoundingCode(running.app)).to.equal(null)
  })

  it('writes a template, makes an agreement of it, sends it, and it is signed and sealed in the organisation’s name', async function () {
    this.timeout(120_000)
    await page.getByRole('link', { name: 'Records', exact: true }).click()
    await page.goto(`${running.url}/records/sheets`)
    await page
      .getByLabel('Sheet file')
      .setInputFiles({ name: 'buyers.csv', mimeType: 'text/csv', buffer: Buffer.from(SHEET) })
    await page.getByRole('gridcell', { name: 'Sedge Harbor Honey' }).waitFor()
    await page.goto(`${running.url}/templates`)
    await page.getByRole('button', { name: 'New template' }).click()
    await page.getByLabel('Title').fill('Honey sale')
    await page.getByRole('button', { name: 'Create template' }).click()
    const text = page.getByRole('textbox', { name: 'Template text' })
    await text.getByText('Honey sale').waitFor()
    await page.getByLabel('Source of the proof').selectOption({ label: 'buyers.csv' })
    await page.getByRole('tab', { name: 'Data' }).click()
    await page.getByRole('button', { name: /Take columns of buyers/ }).click()
    await page.getByRole('tab', { name: 'Roles' }).click()
    await page.getByRole('button', { name: 'Role', exact: true }).click()
    await page.getByLabel('Role', { exact: true }).fill('Buyer')
    await page.getByLabel('Found').selectOption('from the record')
    await page.getByLabel('Name from').selectOption('Contact')
    await page.getByLabel('Email address from').selectOption('Contact mail')
    await page.getByRole('tab', { name: 'Text' }).click()
    await text.locator('p').first().click()
    await page.keyboard.type('The buyer, {{')
    await page
      .getByRole('option', { name: /^Buyer/ })
      .first()
      .click()
    await page.keyboard.type(', buys honey. /signatures of')
    await page.getByRole('option', { name: 'Signatures of everyone' }).first().click()
    await text.locator('.signature-places').waitFor()
    await page.getByText(/^Saved/).waitFor()
    await page.getByRole('button', { name: /Publish/ }).click()
    await page
      .getByRole('dialog')
      .getByRole('button', { name: /Publish/ })
      .click()
    await page
      .getByText(/Edition 1/)
      .first()
      .waitFor()

    const juna = new Client(running.url)
    await juna.call('signIn', { body: { email: administrator.email, password: administrator.password } })
    await page.goto(`${running.url}/records/sheets`)
    await page.getByText('buyers.csv').click()
    await page.getByRole('button', { name: 'Set up a run' }).click()
    await page.getByRole('button', { name: 'Check rows' }).click()
    await page.getByRole('button', { name: 'Generate 1 agreement' }).click()
    await page.getByText('1 agreement made').first().waitFor({ timeout: 60_000 })
    await page.getByRole('link', { name: '1 agreement', exact: true }).click()
    await page.getByRole('row').filter({ hasText: 'T-0001' }).click()
    await page.getByRole('button', { name: 'Send for signature' }).click()
    await page.getByRole('button', { name: 'I have read it, send' }).click()
    await page.getByText('Sent.', { exact: true }).waitFor()
    await page.getByRole('link', { name: 'Test inbox' }).click()
    await page.getByRole('list', { name: 'Emails' }).getByRole('link').first().click()
    await page
      .getByText(/Tansy Falls Honey/)
      .first()
      .waitFor()
    const [signing] = await Promise.all([
      page.context().waitForEvent('page'),
      page.frameLocator('iframe').getByRole('link', { name: 'Read and sign' }).click(),
    ])
    await signing.getByText('Juna Corbin, Tansy Falls Honey').first().waitFor()
    await signing.getByRole('checkbox').check()
    await signing.getByRole('button', { name: 'Read the agreement' }).click()
    await signing.getByRole('button', { name: 'Signature', exact: true }).click()
    await signing.getByRole('button', { name: 'Use this signature' }).click()
    await signing.getByRole('button', { name: 'Sign this agreement' }).click()
    await signing.getByRole('heading', { name: /You have signed|Signed by everyone/ }).waitFor()
    const sealed = await eventually(async () => {
      const { rows } = await running.app.pool.query<{ executed_sha256: string | null }>(
        'select executed_sha256 from agreement',
      )
      return rows[0]?.executed_sha256
    }, 'the seal')
    const path = join(tmpdir(), `brevan-first-${process.pid}.pdf`)
    await writeFile(path, await running.app.files.get(sealed))
    const { stdout } = await promisify(execFile)('pdfsig', [path])
    expect(stdout).to.contain('Signature is Valid').and.to.contain('Seal of Tansy Falls Honey')
  })

  it('changes what the organisation is called, and one of two who do it at once is told', async () => {
    await page.goto(`${running.url}/settings`)
    await page.getByLabel('Name', { exact: true }).fill('Tansy Falls Honey Company')
    const juna = new Client(running.url)
    await juna.call('signIn', { body: { email: administrator.email, password: administrator.password } })
    const { version, series } = await juna.call('settings')
    const body = {
      version,
      organisation: { ...organisation, place: 'Tansy' },
      series: series.map(({ id, pattern }) => ({ id, pattern })),
    }
    await juna.call('changeSettings', { body })
    await page.getByRole('button', { name: 'Save' }).click()
    await page.getByText(/Somebody changed the settings/).waitFor()
    expect(await page.getByLabel('Name', { exact: true }).inputValue()).to.equal('Tansy Falls Honey Company')
  })
})
