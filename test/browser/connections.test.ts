import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { violations } from '#test/support/axe.ts'
import { eventually } from '#test/support/client.ts'
import { openedApp } from '#test/support/opened-app.ts'
import type { Running } from '#test/support/running.ts'
import { CLIENT, CustomerSystem } from '../../demo/customer-system/system.ts'

describe('a customer system, through the real interface', function () {
  this.timeout(120_000)
  let running: Running
  let page: Page
  const system = new CustomerSystem()
  openedApp('connection_page', { as: 'Ines Hallow', story: true, sheet: false }, async (all) => {
    ;({ running, page } = all)
    Object.assign(running.app.settings, { inner: ['127.0.0.1'] })
    for (let i = 1; i <= 8; i++)
      system.add(`Rowan Farm ${i}`, [{ item: 'Full colony', quantity: i, unit: 'colony', price: 245 }])
    await system.start()
  })
  after(() => system?.stop())

  it('is connected, and tells what it has', async () => {
    await page.goto(`${running.url}/settings`)
    await page.getByRole('link', { name: 'Connections' }).click()
    await page.getByText('No connections yet').waitFor()
    await page.getByRole('button', { name: 'Add connection' }).click()
    await page.getByLabel('Name', { exact: true }).fill('Growers')
    await page.getByRole('textbox', { name: /^Address/ }).fill(system.address)
    await page.getByLabel('Token address').fill(`${system.address}/oauth/token`)
    await page.getByLabel('Client ID').fill(CLIENT.client)
    await page.getByLabel('Client secret').fill('wrong')
    expect(await violations(page)).to.deep.equal([])
    await page.getByRole('dialog').getByRole('button', { name: 'Add connection' }).click()
    await page.getByRole('button', { name: 'I have stored the secret' }).click()
    await page.getByRole('button', { name: 'Test connection' }).click()
    await page.getByText('invalid_client').waitFor()
    await page.getByRole('button', { name: 'Edit connection' }).click()
    await page.getByLabel('Client secret').fill(CLIENT.secret)
    await page.getByRole('dialog').getByRole('button', { name: 'Save connection' }).click()
    await page.getByRole('dialog').waitFor({ state: 'detached' })
    await page.getByRole('button', { name: 'Test connection' }).click()
    await page.getByText('growers, bookings').waitFor()
  })

  it('is mapped, read, and what both changed is settled by somebody', async () => {
    await page.getByRole('button', { name: 'Find object types' }).click()
    await page.getByLabel('growers are read as').selectOption('customer')
    await page.getByLabel('bookings are read as').selectOption('deal')
    await page.getByLabel('Customer of bookings').selectOption('grower_id')
    expect(await page.getByLabel('E-mail from').inputValue()).to.equal('contact.email')
    expect(await violations(page)).to.deep.equal([])
    await page.getByRole('button', { name: 'Save mapping' }).click()
    await page.getByText('Connection saved.').waitFor()
    await page.getByRole('button', { name: 'Read now' }).click()
    await page.getByText('16 records').waitFor()
    await page.goto(`${running.url}/records/customers`)
    await page.getByRole('searchbox').or(page.getByPlaceholder('Search')).first().fill('Rowan Farm 3')
    await page.getByText('Rowan Farm 3').first().click()
    const record = page.getByRole('region', { name: 'Rowan Farm 3' })
    await record.getByLabel('Mailing address').fill('Ours')
    await record.getByRole('button', { name: 'Save' }).click()
    await eventually(async () => {
      const found = await running.app.pool.query(`select 1 from record where data->>'address' = 'Ours'`)
      return found.rowCount === 1
    }, 'the record to be kept')
    Object.assign(system.growers[2]!, { address: 'Theirs', updated_at: system.now() })
    await page.goto(`${running.url}/settings/programs/connections`)
    await page.getByRole('link', { name: /Growers/ }).click()
    await page.getByRole('button', { name: 'Read now' }).click()
    await page.getByText('our value: Ours').waitFor()
    expect(await violations(page)).to.deep.equal([])
    await page.getByRole('button', { name: 'Use their value' }).click()
    await page.getByText('our value: Ours').waitFor({ state: 'detached' })
  })

  it('that cannot be read is on the desk, and is read again from there', async () => {
    system.faults.add('down')
    const failing = () =>
      running.app.pool.query(`update connection set failures = 2, due_at = now(), held_until = null`)
    await failing()
    await page.getByRole('button', { name: 'Read now' }).click()
    await page.getByText('it answered 503').first().waitFor()
    await page.goto(`${running.url}/desk`)
    const block = page.getByRole('region', { name: 'Integrations that need a hand' })
    await block.getByText('growers: it answered 503.').waitFor()
    system.faults.delete('down')
    await block.getByRole('button', { name: 'Try again' }).click()
    await block.waitFor({ state: 'detached' })
  })
})
