import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { violations } from '#test/support/axe.ts'
import { eventually } from '#test/support/client.ts'
import { openedApp } from '#test/support/opened-app.ts'
import type { Running } from '#test/support/running.ts'
import { saleOf } from '#test/support/sale.ts'

describe('programs, through the real interface', function () {
  this.timeout(120_000)
  let running: Running
  let page: Page
  let secret = ''
  const heard: string[] = []
  const receiver = createServer((request, response) => {
    let body = ''
    request.on('data', (part: Buffer) => (body += part.toString()))
    request.on('end', () => {
      heard.push((JSON.parse(body) as { type: string }).type)
      response.writeHead(204).end()
    })
  })
  openedApp('programs_page', { as: 'Ines Hallow', story: true }, async (all) => {
    ;({ running, page } = all)
    // The receiver of this test stands on this machine.
    Object.assign(running.app.settings, { inner: ['127.0.0.1'] })
    await new Promise<void>((resolve) => receiver.listen(0, '127.0.0.1', resolve))
  })
  after(() => void receiver?.close())

  it('gives a program a key, which is shown once', async () => {
    await page.goto(`${running.url}/settings`)
    await page.getByRole('link', { name: 'API keys and webhooks' }).click()
    await page.getByText('No API keys yet').waitFor()
    await page.getByRole('button', { name: 'Create key' }).click()
    await page.getByLabel('Program').fill('Hive portal')
    for (const scope of ['read templates', 'start agreements']) await page.getByLabel(scope).check()
    await page.getByRole('dialog').getByRole('button', { name: 'Create key' }).click()
    secret = await page.getByRole('dialog').locator('code').first().innerText()
    expect(secret).to.match(/^[\w-]{12}\.[\w-]{43}$/)
    await page.getByRole('button', { name: 'I have stored the secret' }).click()
    expect(await page.getByRole('region', { name: 'Keys' }).innerText()).to.contain('never')
    expect(await page.content()).to.not.contain(secret.split('.')[1])
  })

  it('has a program told, and shows what it was told of an agreement that the key started', async () => {
    await page.getByRole('button', { name: 'Add webhook' }).click()
    await page.getByLabel('Program').fill('Ledger')
    const { port } = receiver.address() as AddressInfo
    await page.getByLabel('Address').fill(`http://127.0.0.1:${port}/acts`)
    await page.getByRole('dialog').getByRole('button', { name: 'Add webhook' }).click()
    await page.getByRole('button', { name: 'I have stored the secret' }).click()
    const headers = { authorization: `Bearer ${secret}`, 'content-type': 'application/json' }
    const templates = (await (await fetch(`${running.url}/api/v1/templates`, { headers })).json()) as {
      id: string
      name: string
    }[]
    const started = await fetch(`${running.url}/api/v1/agreements`, {
      method: 'POST',
      headers,
      body: JSON.stringify({
        template: templates.find(({ name }) => name === 'Colony sale')!.id,
        data: saleOf('Fennel Bottom Farm'),
      }),
    })
    expect(started.status).to.equal(202)
    await eventually(() => Promise.resolve(heard.length > 0), 'the first act')
    expect(heard[0]).to.equal('brevan.agreement.made')
    await page.getByRole('button', { name: 'Deliveries' }).click()
    await page.getByRole('dialog').getByText('delivered (204)').first().waitFor()
    expect(await violations(page)).to.deep.equal([])
    const before = heard.length
    await page.getByRole('button', { name: 'Send again' }).last().click()
    await eventually(() => Promise.resolve(heard.length > before), 'it once more')
    await page.keyboard.press('Escape')
  })

  it('takes a key back at once, and tells people what programs can call', async () => {
    await page.getByRole('button', { name: 'Revoke' }).click()
    await page.getByRole('button', { name: 'Revoke for good' }).click()
    await page.getByRole('region', { name: 'Keys' }).getByText('revoked').waitFor()
    const refused = await fetch(`${running.url}/api/v1/templates`, {
      headers: { authorization: `Bearer ${secret}` },
    })
    expect(refused.status).to.equal(401)
    expect(await violations(page)).to.deep.equal([])
    await page.getByRole('link', { name: 'API reference' }).click()
    await page.getByRole('region', { name: 'POST /v1/agreements', exact: true }).waitFor()
    expect(await violations(page)).to.deep.equal([])
  })
})
