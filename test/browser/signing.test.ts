import { randomUUID } from 'node:crypto'
import { writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { violations } from '#test/support/axe.ts'
import type { Browser } from '#test/support/browser.ts'
import { Client, eventually } from '#test/support/client.ts'
import { openedApp } from '#test/support/opened-app.ts'
import type { Running } from '#test/support/running.ts'
import { SEASON_ANSWERS, linkIn } from '#test/support/signing.ts'

describe('sending and signing, through the real interface', function () {
  this.timeout(180_000)
  let running: Running
  let browser: Browser
  let page: Page
  let ines: Client
  let id = ''
  let grower = { name: '', email: '' }
  openedApp('ceremony', { as: 'Ines Hallow', story: true, sheet: false }, async (all) => {
    ;({ running, browser, page } = all)
    ines = await Client.signedIn(running.url, 'ines.hallow')
  })

  const read = () => ines.call('agreement', { params: { id } })
  /** A page of a phone’s size. */
  async function phone(): Promise<Page> {
    const made = await browser.page()
    await made.setViewportSize({ width: 390, height: 844 })
    return made
  }

  it('sets on one page who signs in which order and by which proof, with each mail beside it', async () => {
    const templateId = (await ines.call('templates')).find(({ name }) => name.startsWith('Season'))!.id
    const { records } = await ines.call('records', { params: { kind: 'customer' } })
    for (const customer of records) {
      const made = await ines.call('makeOneAgreement', {
        params: { kind: 'customer', id: customer.id },
        body: { templateId, answers: SEASON_ANSWERS, occasion: randomUUID(), another: true },
      })
      id = made.id
      const found = await read()
      if (found.state === 'cleared' && found.parties.length === 2) break
    }
    grower = (await read()).parties.find(({ label }) => label === 'Grower')!
    await page.goto(`${running.url}/agreements/${id}`)
    await page.getByRole('link', { name: 'Sending', exact: true }).click()
    const preview = page.getByRole('region', { name: 'Email preview' })
    await preview.getByText('Read and sign').waitFor()
    await page.getByRole('button', { name: new RegExp(`^${grower.name} `) }).click()
    await page.getByRole('combobox', { name: /^Language/ }).selectOption('es')
    await preview.getByText('Leer y firmar').waitFor()
    await page.getByLabel('Identity check').selectOption('mail code')
    await page.getByLabel('Message only to them').fill('Gracias por la temporada pasada.')
    await preview.getByText('Solo para usted: Gracias por la temporada pasada.').waitFor()
    await page.getByText('The code goes to the same email address as the link').waitFor()
    await page.getByRole('button', { name: 'Add a person who agrees without signing' }).click()
    await page.getByLabel('Person who agrees').fill('Opal Dunmore')
    await page.locator('form').getByLabel('Email address').fill('opal@holding.example')
    await page.getByRole('button', { name: 'Add', exact: true }).click()
    // To the beginning by keys alone.
    for (const place of [3, 2]) {
      await page.getByRole('button', { name: new RegExp(`^Opal Dunmore, place ${place}`) }).focus()
      await page.keyboard.press('Alt+ArrowUp')
    }
    await page.getByRole('button', { name: /^Opal Dunmore, place 1/ }).waitFor()
    await page.getByRole('button', { name: 'Add a reminder' }).click()
    await page.getByRole('list', { name: 'Reminders' }).getByText('Reminder 3 days after sending').waitFor()
    await page.getByRole('status').getByText('saved', { exact: true }).waitFor()
    expect(await violations(page)).to.deep.equal([])
    await page.reload()
    await page.getByRole('button', { name: /^Opal Dunmore, place 1/ }).waitFor()
    await page.getByRole('button', { name: 'Send for signature' }).click()
    await page.getByText('Sent.', { exact: true }).waitFor()
  })

  it('has somebody agree who fills in nothing', async () => {
    const opal = await phone()
    await opal.goto(`${running.url}/sign/${await linkIn(ines, 'opal@holding.example')}`)
    await opal.getByRole('checkbox').check()
    await opal.getByRole('button', { name: 'Read the agreement' }).click()
    await opal.getByText('You fill in nothing here.').waitFor()
    await opal.getByRole('button', { name: 'I agree to this document' }).click()
    await opal.getByRole('heading', { name: 'You have signed' }).waitFor()
    await opal.close()
  })

  it('is signed on a phone in Spanish, in the reading view, after a code; with a question, and leaving in between', async () => {
    const maud = await phone()
    const token = await linkIn(ines, grower.email)
    await maud.goto(`${running.url}/sign/${token}`)
    await maud.getByRole('heading', { name: 'Demuestre que es usted' }).waitFor()
    expect(await maud.getByText('Pollination agreement').count(), 'nothing is shown before').to.equal(0)
    expect(await violations(maud)).to.deep.equal([])
    await maud.getByRole('button', { name: 'Enviarme un código' }).click()
    const code = await eventually(async () => {
      const [newest] = await ines.call('receivedMails', { query: { search: grower.email } })
      const { text } = await ines.call('receivedMail', { params: { id: newest!.id } })
      return /Su código es (\d{6})/.exec(text)?.[1]
    }, 'a code')
    await maud.getByLabel('Código').fill(code)
    await maud.getByRole('button', { name: 'Continuar' }).click()
    await maud.getByText('Gracias por la temporada pasada.').waitFor()
    expect(await violations(maud)).to.deep.equal([])
    await maud.getByRole('checkbox').check()
    await maud.getByRole('button', { name: 'Leer el contrato' }).click()
    await maud.getByText('Lo que cuenta, y lo que se sella, son las páginas exactas.').waitFor()
    expect(await violations(maud)).to.deep.equal([])
    expect(await maud.evaluate(() => document.documentElement.scrollWidth)).to.be.at.most(390)
    expect(await maud.evaluate(() => document.documentElement.lang)).to.equal('es')
    const size = await maud
      .getByRole('article')
      .locator('p')
      .first()
      .evaluate((text) => Number.parseFloat(getComputedStyle(text).fontSize))
    expect(size, 'text to be read without pulling it about').to.be.at.least(16)
    await maud.getByRole('button', { name: /^Firma, hay que rellenarlo/ }).click()
    await maud.getByRole('radio', { name: 'Letra 2' }).check()
    await maud.getByRole('button', { name: 'Usar esta firma' }).click()
    await maud.getByText('Faltan 5 lugares por rellenar').waitFor()
    // Leaving, and coming back: what was filled in is there.
    await maud.reload()
    await maud.getByText('Faltan 5 lugares por rellenar').waitFor()
    await maud.getByRole('button', { name: /^Iniciales, página 1/ }).click()
    await maud.getByRole('button', { name: 'Usar estas iniciales' }).click()
    await maud.getByText('Faltan 4 lugares por rellenar').waitFor()
    await maud.getByRole('button', { name: 'Más' }).click()
    await maud.getByText('Hacer una pregunta').click()
    await maud.getByLabel('Su pregunta').fill('¿Pueden venir de día?')
    await maud.getByRole('button', { name: 'Preguntar', exact: true }).click()
    await maud.getByText('Su pregunta está en camino.').waitFor()
    await maud.getByRole('button', { name: 'Poner mis iniciales en los 4 lugares' }).click()
    await maud.getByText('Todo lo necesario está relleno.').waitFor()
    await maud.getByRole('button', { name: 'Páginas exactas', exact: true }).click()
    await maud.locator('[data-page="1"] canvas').waitFor()
    expect(await violations(maud)).to.deep.equal([])
    await maud.getByRole('button', { name: 'Firmar este acuerdo' }).click()
    await maud.getByRole('heading', { name: 'Ha firmado' }).waitFor()
    await maud.close()
  })

  it('shows the sender the question, to be answered in its place', async () => {
    await page.goto(`${running.url}/agreements/${id}`)
    const asked = page.getByRole('region', { name: 'Questions of the parties' })
    await asked.getByText('¿Pueden venir de día?').waitFor()
    await asked.getByLabel('Answer').fill('Antes de las siete, sí.')
    await asked.getByRole('button', { name: 'Answer' }).click()
    await asked.getByText('Antes de las siete, sí.').waitFor()
  })

  it('is signed in person at the sender’s device, which is handed over by both', async () => {
    await page.reload()
    const [signing] = await Promise.all([
      page.context().waitForEvent('page'),
      page.getByRole('button', { name: 'Sign here in person' }).first().click(),
    ])
    await signing.getByRole('heading', { name: 'Hand the device to Tobias Renn' }).waitFor()
    await signing.getByRole('button', { name: 'I am Tobias Renn' }).click()
    await signing.getByRole('checkbox').check()
    await signing.getByRole('button', { name: 'Read the agreement' }).click()
    await signing.locator('[data-page="5"]').waitFor({ state: 'attached' })
    await signing.getByRole('button', { name: 'Signature', exact: true }).click()
    await signing.getByRole('button', { name: 'Use this signature' }).click()
    await signing.getByRole('button', { name: /^Initials, page 1/ }).click()
    await signing.getByRole('button', { name: 'Use these initials' }).click()
    for (const each of [2, 3, 4, 5])
      await signing.getByRole('button', { name: `Initials, page ${each}`, exact: true }).click()
    await signing.getByText('Everything that is needed is filled in').waitFor()
    await signing.getByRole('button', { name: 'Sign this agreement' }).click()
    await signing.getByText('Hand the device back to Ines Hallow.').waitFor()
    await signing.close()
    await eventually(async () => (await read()).state === 'executed', 'the seal', 60)
  })

  it('is told by anybody, without a session, from the file alone, once the database knows nothing of it', async () => {
    const file = await (await ines.call('agreementDocument', { params: { id } })).arrayBuffer()
    const path = join(tmpdir(), `brevan-${id}.pdf`)
    await writeFile(path, new Uint8Array(file))
    // Behind the app’s back: even the trail, to which otherwise things are only added.
    for (const table of ['trail', 'trail_anchor'])
      await running.owner(`alter table ${table} disable trigger user`)
    await running.owner('truncate agreement, claim cascade')
    const anybody = await phone()
    await anybody.context().clearCookies()
    await anybody.goto(`${running.url}/verify`)
    await anybody.locator('input[type=file]').setInputFiles(path)
    const result = anybody.getByRole('region', { name: 'Result' })
    await result.getByRole('heading', { name: 'It is as it was sealed' }).waitFor()
    for (const words of [
      grower.name,
      'present in person, at the device of Ines Hallow',
      'a code for one use',
      'no record of it',
    ])
      await result.getByText(words).first().waitFor()
    expect(await result.innerText()).not.to.contain(grower.email)
    expect(await violations(anybody)).to.deep.equal([])
    const changed = new Uint8Array(file)
    changed[Math.floor(changed.length / 3)]! ^= 1
    await writeFile(path, changed)
    await anybody.locator('input[type=file]').setInputFiles(path)
    await result.getByRole('heading', { name: /It is not as it was sealed|This file has no seal/ }).waitFor()
    await anybody.close()
  })
})
