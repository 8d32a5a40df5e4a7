import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { speaks } from '#core/languages/all.ts'
import { violations } from '#test/support/axe.ts'
import type { Browser } from '#test/support/browser.ts'
import { Client, eventually } from '#test/support/client.ts'
import { openedApp } from '#test/support/opened-app.ts'
import type { Running } from '#test/support/running.ts'
import { connected, followSale } from '#test/support/connected.ts'
import { fillAll, linkIn } from '#test/support/signing.ts'
import { CustomerSystem } from '../../demo/customer-system/system.ts'

const EMAIL = 'ada.moss@quincebank.example'

/** What an outsider answers, by the question’s words; choices by what is chosen. */
const ANSWERS: Readonly<Record<string, string>> = {
  'Nom de votre verger': 'Quince Bank',
  'Legal form': 'LLC',
  Contact: 'Ada Moss',
  'Contact’s mail address': EMAIL,
  'Contact’s telephone': '+1 503 555 0117',
  Address: '1 Low Road, Sedge Harbor',
  County: 'Hollin',
  State: 'Oregon',
  'First day of bloom': '2027-03-20',
  'Last day of bloom': '2027-04-02',
  'Land leased': 'Non',
  Season: '2027',
  Crop: 'pear',
  Acres: '1 250,5',
  Organic: 'Non',
  'First season': 'Non',
  Colonies: '30',
  'Frames of bees': '8',
  'Price per colony': '210',
  'Payment days': '30',
  'Day of handover': '2027-05-10',
  Payment: 'in advance',
}
const LOT: Readonly<Record<string, string>> = { Item: 'Nucleus colony', Quantity: '3', Price: '168,50' }

describe('an intake form, through the real interface', function () {
  this.timeout(180_000)
  let running: Running
  let browser: Browser
  let page: Page
  let ines: Client
  let phone: Page
  let url = ''
  const system = new CustomerSystem()
  const formId = () =>
    /\/forms?\/([0-9a-f-]{36})|intakes\/([0-9a-f-]{36})/.exec(page.url())!.slice(1).find(Boolean)!
  /** A page of somebody else’s, with the form in a frame. */
  let framing = ''
  let elsewhere = ''
  const site = createServer((_, response) => response.setHeader('content-type', 'text/html').end(framing))
  openedApp('intake_page', { as: 'Ines Hallow', story: true, sheet: false }, async (all) => {
    ;({ running, browser, page } = all)
    Object.assign(running.app.settings, { inner: ['127.0.0.1'] })
    ines = await Client.signedIn(running.url, 'ines.hallow')
    system.add('Quince Bank', [])
    await connected(running, ines, await system.start())
    await followSale(ines)
    await new Promise<void>((resolve) => site.listen(0, '127.0.0.1', resolve))
    elsewhere = `http://127.0.0.1:${(site.address() as AddressInfo).port}`
  })
  after(async () => {
    site?.close()
    await system?.stop()
  })

  it('is made from two templates in one step; what both need is asked once', async () => {
    await page.goto(`${running.url}/templates`)
    await page.getByRole('link', { name: 'Intake forms' }).click()
    await page.getByText('No intake forms yet').waitFor()
    await page.getByRole('button', { name: 'New intake form' }).click()
    for (const name of ['Season pollination agreement', 'Colony sale'])
      await page.getByLabel('Add a template').selectOption({ label: name })
    await page.getByRole('button', { name: 'Create intake form' }).click()
    await page.getByRole('heading', { name: 'Season pollination agreement, Colony sale', level: 1 }).waitFor()
    const questions = page.locator('section ol li')
    const asked = await questions.allInnerTexts()
    expect(asked.filter((text) => text.startsWith('Contact’s mail address'))).to.have.length(1)
    expect(asked.some((text) => text.startsWith('Buyer'))).to.equal(false)
    expect(await violations(page)).to.deep.equal([])
  })

  it('is changed, also in another language, with undo, and what is not kept is there after going away', async () => {
    await page.getByLabel('Title', { exact: true }).fill('Bees for your orchard')
    await page.getByRole('button', { name: 'Orchard', exact: true }).first().click()
    await page.getByLabel('Texts in').selectOption('fr')
    await page.getByLabel('Question', { exact: true }).fill('Nom de votre verger')
    await page.getByLabel('Texts in').selectOption('en')
    await page.getByRole('button', { name: 'Legal form: move down' }).click()
    await page.getByRole('button', { name: 'Undo' }).click()
    await page.getByRole('link', { name: 'Desk', exact: true }).click()
    await page.goBack()
    await page.getByRole('heading', { name: 'Bees for your orchard', level: 1 }).waitFor()
    await page.getByRole('tab', { name: 'after submission' }).click()
    await page.getByLabel('Sign right away').check()
    await page.getByRole('button', { name: 'Save form' }).click()
    await page.getByText('Respondents see it from now on').waitFor()
    expect(await violations(page)).to.deep.equal([])
    await page.reload()
    expect(await page.getByLabel('Sign right away').isChecked()).to.equal(true)
  })

  it('gets a public address that other pages may show in a frame where they are named', async () => {
    await page.getByRole('tab', { name: 'links' }).click()
    await page.getByRole('button', { name: 'New public link' }).click()
    await page.getByLabel('Where it is used').fill('Our page')
    await page
      .getByLabel('Websites that may show it in a frame')
      .fill(`https://growers.example\n${elsewhere}`)
    await page.getByRole('button', { name: 'Create link' }).click()
    url = (await page.getByRole('link', { name: /\/form\// }).getAttribute('href'))!
    const policy = (await fetch(url)).headers.get('content-security-policy')!
    expect(policy).to.contain(`frame-ancestors 'self' https://growers.example ${elsewhere}`)
    expect((await fetch(`${running.url}/desk`)).headers.get('content-security-policy')).to.contain(
      "frame-ancestors 'self';",
    )
  })

  it('is answered within a page of somebody else’s that its link names', async () => {
    framing = `<!doctype html><title>Our growers</title><iframe src="${url}" style="width:90%;height:90vh"></iframe>`
    const theirs = await browser.page()
    await theirs.goto(elsewhere)
    const frame = theirs.frameLocator('iframe')
    await frame.getByLabel('Orchard', { exact: true }).fill('Framed Growers')
    await frame.getByText('Kept as you write').waitFor()
    await theirs.close()
  })

  /** Answers what the page asks, in the words above. */
  async function answerPage(): Promise<void> {
    for (const part of await phone.locator('form > div').all()) {
      const label = (await part.locator('.font-serif').allInnerTexts())[0] ?? ''
      const answer = ANSWERS[label]
      if (label === 'Lots')
        for (const [name, value] of Object.entries(LOT))
          await part.getByLabel(name, { exact: true }).fill(value)
      if (label === 'Lots') await part.getByRole('radio', { name: 'A', exact: true }).check()
      if (answer === undefined) continue
      if (await part.getByRole('radio').count()) await part.getByRole('radio', { name: answer }).check()
      else if (await part.locator('select').count()) await part.locator('select').selectOption(answer)
      else await part.locator('input, textarea').fill(answer)
    }
  }

  it('is filled on a phone in French; left, come back to, and corrected where something is wrong', async () => {
    phone = await browser.page()
    await phone.setViewportSize({ width: 390, height: 844 })
    await phone.goto(url)
    await phone.getByRole('combobox').selectOption('fr')
    const go = phone.getByRole('button', { name: 'Continuer', exact: true })
    await go.click()
    await phone.getByText('« Nom de votre verger » manque.').waitFor()
    expect(await violations(phone)).to.deep.equal([])
    await answerPage()
    await phone.getByText('Enregistré au fil de la saisie').waitFor()
    expect(phone.url()).to.not.equal(url)
    await go.click()
    // Leaving, and coming back to the address: what was answered is there, in the language it was answered in.
    await phone.goto('about:blank')
    await phone.goBack()
    await go.waitFor()
    expect(await phone.getByLabel('Nom de votre verger').inputValue()).to.equal('Quince Bank')
    for (let page = 0; page < 12 && (await go.count()); page++) {
      await answerPage()
      await go.click()
      await phone.evaluate(() => new Promise((resolve) => setTimeout(resolve, 50)))
    }
    await phone.getByText('Relisez une dernière fois').waitFor()
    expect(await phone.locator('main').innerText()).to.match(/1\s250,5/)
    expect(await violations(phone)).to.deep.equal([])
    expect(await phone.evaluate(() => document.documentElement.scrollWidth)).to.be.at.most(390)
  })

  it('waits for somebody here where it names a customer who is known: a name proves nothing', async () => {
    await phone.getByText('Enregistré au fil de la saisie').waitFor()
    await phone.getByRole('button', { name: 'Remettre' }).click()
    await phone.getByText(speaks('fr').say('form.looked', { email: EMAIL })).waitFor()
    expect(await phone.getByRole('button', { name: 'Lire et signer' }).count()).to.equal(0)
    expect(await violations(phone)).to.deep.equal([])
  })

  it('leads to both agreements, signed in the same sitting', async () => {
    const [known] = (await ines.call('answers', { params: { id: formId() } })).filter(({ name }) =>
      /Quince|Moss/.test(name),
    )
    const { answers } = await ines.call('answer', { params: { id: known!.id } })
    const other = Object.fromEntries(
      Object.entries(answers).map(([question, said]) => [
        question,
        said === 'Quince Bank' ? 'Medlar Hill' : said === EMAIL ? 'nora.hay@medlarhill.example' : said,
      ]),
    )
    const stranger = new Client(running.url)
    const { token } = await stranger.call('beginAnswer', {
      params: { token: url.split('/').at(-1)! },
      body: { language: 'fr' },
    })
    await stranger.call('handInAnswers', { params: { token }, body: { answers: other, language: 'fr' } })
    await phone.goto(`${running.url}/form/${token}`)
    await phone.getByText('Votre identité repose uniquement sur').waitFor()
    expect(await phone.getByRole('button', { name: 'Lire et signer' }).count()).to.equal(2)
    expect(await violations(phone)).to.deep.equal([])
    for (const left of [1, 0]) {
      await phone.getByRole('button', { name: 'Lire et signer' }).first().click()
      await phone.getByRole('checkbox').check()
      await phone.getByRole('button', { name: 'Lire le contrat' }).click()
      await phone.getByRole('article').waitFor()
      await fillAll(new Client(running.url), /\/sign\/([\w-]{43})/.exec(phone.url())![1]!, 'Ada Moss')
      await phone.reload()
      await phone.getByRole('button', { name: 'Signer cet accord' }).click()
      await phone.getByRole('link', { name: 'Retour au formulaire' }).click()
      await phone.getByText('Signé par vous').first().waitFor()
      expect(await phone.getByRole('button', { name: 'Lire et signer' }).count()).to.equal(left)
    }
    await phone.close()
  })

  it('is found where people work: the answer, what differs from the record, both agreements, the mails', async () => {
    await page.getByRole('tab', { name: 'responses' }).click()
    await page.getByRole('link', { name: /Quince Bank|Ada Moss/ }).click()
    const answer = page.getByRole('region', { name: /Quince Bank|Ada Moss/ })
    await answer.getByText('differs from the record').waitFor()
    await answer.getByRole('button', { name: 'Update record' }).click()
    await answer.getByText('record updated').waitFor()
    expect(
      await answer.getByRole('list', { name: 'Agreements of this response' }).locator('li').count(),
    ).to.equal(2)
    expect(await violations(page)).to.deep.equal([])
    await answer.getByRole('link', { name: 'Quince Bank', exact: true }).click()
    const record = page.getByRole('region', { name: 'Quince Bank' })
    await record
      .getByRole('list', { name: 'Intakes of this record' })
      .getByText('Bees for your orchard')
      .waitFor()
    expect(
      await record.getByRole('list', { name: 'Agreements of this record' }).locator('li').count(),
    ).to.equal(2)
    const told = await eventually(async () => {
      const mails = await ines.call('receivedMails', { query: { search: 'ada.moss@quincebank.example' } })
      return mails.find(({ subject }) => subject === 'Vos réponses : Bees for your orchard')
    }, 'the answers by mail')
    expect(told.to).to.contain('ada.moss')
  })

  it('goes out once somebody here sends it, by links to the address that was given', async () => {
    const record = (
      await ines.call('records', { params: { kind: 'customer' }, query: { search: 'Quince Bank' } })
    ).records[0]!
    const { agreements } = await ines.call('record', { params: { kind: 'customer', id: record.id } })
    const sent = await ines.call('sendAgreements', {
      body: { agreements: agreements.map(({ id }) => id), unread: true },
    })
    expect(sent).to.deep.include({ sent: 2, refused: [] })
    const asked = async () =>
      (await ines.call('receivedMails', { query: { search: EMAIL } })).filter(
        ({ subject }) => !subject.startsWith('Vos réponses'),
      )
    const mails = await eventually(async () => {
      const found = await asked()
      return found.length === 2 && found
    }, 'both links')
    const ada = new Client(running.url)
    for (const { subject } of mails) {
      const token = await linkIn(ines, EMAIL, new RegExp(subject.replace(/[^\w ]/g, '.')))
      await ada.call('consent', { params: { token } })
      await fillAll(ada, token, 'Ada Moss')
      await ada.call('finishSigning', { params: { token } })
    }
  })

  it('leads, once we have signed too, to the invoice, and back to the customer system the record came from', async () => {
    // Of the other one hers has come before.
    await eventually(
      async () =>
        (await ines.call('receivedMails', { query: { search: 'ines.hallow' } })).filter(({ subject }) =>
          subject.startsWith('Sale of'),
        ).length === 2,
      'both links of ours',
    )
    const token = await linkIn(ines, 'ines.hallow@larkmere.example', /^Sale of/)
    const larkmere = new Client(running.url)
    await larkmere.call('consent', { params: { token } })
    await fillAll(larkmere, token, 'Ines Hallow')
    await larkmere.call('finishSigning', { params: { token } })
    await eventually(
      () => Promise.resolve(system.growers[0]!.agreement.status === 'executed'),
      'the status',
      60,
    )
    await page.reload()
    const agreements = page.getByRole('list', { name: 'Agreements of this record' })
    await agreements.getByText('INV-0001').waitFor()
    await agreements.getByText('Colony sale, Quince Bank').click()
    await page.getByRole('tab', { name: 'next steps' }).click()
    const steps = page.getByRole('list', { name: 'Next steps' })
    await steps.getByText('done: Growers: executed').waitFor()
    await steps.getByText('done: made from Colony sale invoice').waitFor()
    expect(await violations(page)).to.deep.equal([])
    const told = await browser.page()
    await told.goto(`${system.address}/`)
    await told.getByText('executed', { exact: true }).waitFor()
    expect(await told.locator('body').innerText()).to.match(/growers\/g-1\/LP-\d+\.pdf/)
    const [link] = [system.growers[0]!.agreement.link]
    expect(link).to.match(/\/agreements\/[0-9a-f-]{36}$/)
    await told.close()
  })
})
