import { execFile } from 'node:child_process'
import { mkdtemp, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { gzipSync } from 'node:zlib'
import { expect } from 'chai'
import type { Agreement } from '#contract/agreement.ts'
import type { Page } from 'playwright-core'
import { violations } from '#test/support/axe.ts'
import type { Browser } from '#test/support/browser.ts'
import { Client, eventually } from '#test/support/client.ts'
import { letters } from '#test/support/letters.ts'
import { scrawl } from '#test/support/scrawl.ts'
import { openedApp } from '#test/support/opened-app.ts'
import type { Running } from '#test/support/running.ts'
import { clearedOnes, linkIn, partyOf, setUp } from '#test/support/signing.ts'
import { signAs } from '#test/support/story.ts'

const run = promisify(execFile)

/** How much of a page has moved without anybody's doing: Layout Instability (WICG), of which below 0.1 counts as good. */
const shifted = (page: Page): Promise<number> =>
  page.evaluate(
    () =>
      new Promise<number>((resolve) => {
        let sum = 0
        new PerformanceObserver((list) => {
          for (const entry of list.getEntries() as (PerformanceEntry & {
            value: number
            hadRecentInput: boolean
          })[])
            if (!entry.hadRecentInput) sum += entry.value
        }).observe({ type: 'layout-shift', buffered: true })
        setTimeout(() => resolve(sum), 300)
      }),
  )

describe('what goes out, and what becomes of it, through the real interface', function () {
  this.timeout(180_000)
  let running: Running
  let browser: Browser
  let page: Page
  let ines: Client
  let make: () => Promise<Agreement>
  openedApp('outgoing', { as: 'Ines Hallow', sheet: false }, async (all) => {
    ;({ running, browser, page } = all)
    ines = await Client.signedIn(running.url, 'ines.hallow')
    make = await clearedOnes(ines)
  })

  const read = (id: string) => ines.call('agreement', { params: { id } })
  async function out(language: 'en' | 'es' | 'fr' = 'en', more: { mayHandOver?: boolean } = {}) {
    const made = await make()
    const grower = partyOf(made, 'Grower')
    await setUp(ines, made.id, { [grower.name]: { language, ...more } })
    await ines.call('sendAgreements', { body: { agreements: [made.id] } })
    return { id: made.id, grower, token: await linkIn(ines, grower.email) }
  }
  async function phone(): Promise<Page> {
    const made = await browser.page()
    await made.setViewportSize({ width: 390, height: 844 })
    return made
  }

  it('delivers twenty letters that nobody signs, in a team’s name, and shows which came back', async () => {
    const id = await letters(
      ines,
      Array.from({ length: 20 }, (_, i) => `ivy${i}@${i === 7 ? 'nowhere.invalid' : 'growers.example'}`),
    )
    await page.goto(`${running.url}/runs/${id}`)
    await page.getByRole('link', { name: 'Sending options' }).click()
    await page.getByRole('heading', { name: 'Sending of 20 agreements' }).waitFor()
    expect(await violations(page)).to.deep.equal([])
    await page.getByLabel('Send in the name of').selectOption({ label: 'Contract desk' })
    await page.getByRole('button', { name: 'Deliver 20 agreements' }).click()
    // Nobody has ticked their wording as read.
    await page.getByText('The wording of 20 agreements is not marked as read').waitFor()
    await page.getByRole('button', { name: 'Send unread' }).click()
    await page.getByText('20 agreements delivered.').waitFor()
    await eventually(async () => (await ines.call('desk')).undelivered.length === 1, 'the one that came back')
    await page.getByRole('link', { name: 'Desk', exact: true }).click()
    await page.getByText('ivy7@nowhere.invalid').first().waitFor()
    const { agreements } = await ines.call('agreements', { query: { run: id } })
    const lost = agreements.find(({ name }) => name.includes('Orchard 08'))!
    await page.goto(`${running.url}/agreements/${lost.id}`)
    await page.getByText('There is no host nowhere.invalid').waitFor()
    await page.getByRole('button', { name: /^Correct the address/ }).click()
    await page.getByLabel('Email address').fill('ivy.eight@growers.example')
    await page.getByRole('dialog').getByRole('button', { name: 'Correct the address' }).click()
    await page.getByText('taken by their mail server').waitFor()
  })

  it('sets many at once, keeps words for the next time, and lets them go at a time', async () => {
    const made = [await make(), await make()]
    await page.goto(`${running.url}/agreements?search=${encodeURIComponent(made[0]!.number)}`)
    for (const { number } of made) {
      await page.getByLabel('Search agreements').fill(number)
      await page
        .getByRole('row', { name: new RegExp(number) })
        .getByRole('checkbox')
        .check()
      break
    }
    await page.getByRole('button', { name: 'Sending options' }).click()
    await page.getByRole('heading', { name: 'Sending of 1 agreement' }).waitFor()
    await page.getByLabel('Identity check of Grower').selectOption('mail code')
    await page.getByLabel('Message').fill('Dear {{grower.contact}}, {{colonies}} colonies as agreed.')
    await page.getByRole('button', { name: 'Save message' }).click()
    await page.getByLabel('Name', { exact: true }).fill('As agreed')
    await page.getByRole('dialog').getByRole('button', { name: 'Save message' }).click()
    await page.getByText('Message saved.').waitFor()
    await page.getByRole('button', { name: 'Set for all' }).click()
    await page.getByText('Set for 1 agreement.').waitFor()
    await page.goto(`${running.url}/agreements/${made[1]!.id}/send`)
    await page.getByRole('button', { name: 'Saved messages' }).click()
    await page.getByRole('button', { name: /^As agreed/ }).click()
    await page.getByLabel('Message').and(page.getByText('120 colonies as agreed.')).waitFor()
    await page.getByRole('status').getByText('saved', { exact: true }).waitFor()
    await page.getByRole('button', { name: 'Schedule' }).click()
    await page.getByRole('menuitem', { name: 'Choose day and time' }).click()
    await page.getByRole('dialog').getByRole('button', { name: 'Schedule' }).click()
    await page.getByText('It goes at that time.').waitFor()
    await page.getByText('It goes by itself').waitFor()
    await page.getByRole('button', { name: 'Do not go by itself' }).click()
    await page.getByText('It is no longer scheduled. Send it when you are ready.').waitFor()
    expect((await read(made[1]!.id)).goesAt).to.equal(null)
    const first = await ines.call('sendingOf', { params: { id: made[0]!.id } })
    expect(first.message).to.match(/^Dear .+, 120 colonies as agreed\.$/)
    expect(first.parties.map(({ check }) => check)).to.include('mail code')
  })

  it('has a word of the sender’s stand before the text, recorded here, which plays only when it is started', async () => {
    const made = await make()
    await page.goto(`${running.url}/agreements/${made.id}/send`)
    await page.getByRole('button', { name: 'Record sound' }).click()
    await page.getByText('Recording, 0:01').waitFor()
    await page.getByRole('button', { name: 'Stop' }).click()
    await page.getByLabel('What is said').fill('Good morning. This is Ines, about the coming season.')
    await page.getByText('saved', { exact: true }).nth(1).waitFor()
    expect(await violations(page)).to.deep.equal([])
    await page.getByRole('button', { name: 'Send for signature' }).click()
    await page.getByText('Sent.', { exact: true }).waitFor()
    const maud = await phone()
    await maud.goto(`${running.url}/sign/${await linkIn(ines, partyOf(made, 'Grower').email)}`)
    const word = maud.getByRole('region', { name: /^A word from/ })
    await word.getByText('What is said').click()
    await word.getByText('This is Ines').waitFor()
    const sound = word.locator('audio')
    expect(
      await sound.evaluate((each: HTMLAudioElement) => [each.paused, each.autoplay, each.readyState]),
    ).to.deep.equal([true, false, 0])
    await sound.evaluate((each: HTMLAudioElement) => ((each.muted = true), each.play()))
    await eventually(() => sound.evaluate((each: HTMLAudioElement) => each.currentTime > 0.2), 'it to play')
    expect(await violations(maud)).to.deep.equal([])
    await maud.close()
  })

  it('offers the address that the record book has where one is missing', async () => {
    const made = await make()
    const grower = partyOf(made, 'Grower')
    await setUp(ines, made.id, { [grower.name]: { email: '' } })
    await page.goto(`${running.url}/agreements/${made.id}/send`)
    await page.getByText(`${grower.name}: there is no email address.`).waitFor()
    await page.getByRole('button', { name: grower.email, exact: true }).click()
    await page.getByRole('status').getByText('saved', { exact: true }).waitFor()
    const now = await ines.call('sendingOf', { params: { id: made.id } })
    expect(now.parties.find(({ name }) => name === grower.name)!.email).to.equal(grower.email)
  })

  it('signs on paper: printed, scanned, put back', async () => {
    const { id, grower, token } = await out()
    const printed = await new Client(running.url).call('signingPaper', { params: { token } })
    const folder = await mkdtemp(join(tmpdir(), 'scan-'))
    const file = join(folder, 'scan.pdf')
    await writeFile(file, Buffer.from(await printed.arrayBuffer()))
    await run('pdftoppm', ['-r', '150', '-png', file, join(folder, 'page')])
    const pages = (await read(id)).pages
    await scrawl(running.app, id, 'grower', (number) => join(folder, `page-${number}.png`))
    await page.goto(`${running.url}/agreements/${id}`)
    await page.getByRole('button', { name: 'On paper' }).click()
    const dialog = page.getByRole('dialog')
    await dialog.getByText('to be signed on, not back yet').first().waitFor()
    expect(await violations(page)).to.deep.equal([])
    await dialog
      .getByLabel('Scanned pages')
      .setInputFiles(Array.from({ length: pages }, (_, i) => join(folder, `page-${i + 1}.png`)))
    await eventually(
      async () => (await dialog.getByText(/^put back by Ines Hallow/).count()) === pages,
      'all pages',
      90,
    )
    await dialog.getByRole('button', { name: 'It is signed' }).click()
    await page.getByText(`The signature of ${grower.name} counts.`).waitFor()
    await page.getByText('on paper, put back by Ines Hallow').waitFor()
  })

  it('is refused with a reason, which the sender reads, revises for, and sends again', async () => {
    const { id, grower, token } = await out()
    const maud = await phone()
    await maud.goto(`${running.url}/sign/${token}`)
    await maud.getByRole('button', { name: 'I will not sign' }).click()
    await maud.getByLabel('Your reason').fill('The bloom is a week later.')
    await maud.getByRole('button', { name: 'Refuse', exact: true }).click()
    await maud.getByRole('heading', { name: 'Somebody refused to sign' }).waitFor()
    await page.goto(`${running.url}/agreements/${id}`)
    await page.getByText('The bloom is a week later.').first().waitFor()
    await page.getByRole('button', { name: 'Take back to revise' }).click()
    await page.getByLabel('Reason').fill('A later bloom')
    await page.getByRole('dialog').getByRole('button', { name: 'Take back to revise' }).click()
    await page.getByText('It is a draft again.').waitFor()
    await page.getByRole('button', { name: 'Request approval again' }).click()
    await page.getByRole('button', { name: 'Send for signature' }).click()
    await page.getByText('Sent.', { exact: true }).waitFor()
    await maud.reload()
    await maud.getByRole('heading', { name: 'This agreement is being revised' }).waitFor()
    const again = await eventually(async () => {
      const link = await linkIn(ines, grower.email)
      return link !== token && link
    }, 'a new link')
    await maud.goto(`${running.url}/sign/${again}`)
    await maud.getByRole('button', { name: 'Read the agreement' }).waitFor()
    expect((await read(id)).revision).to.equal(2)
    await maud.close()
  })

  it('is handed over to somebody else, whose it is then, and the sender sees it', async () => {
    const { id, token } = await out('en', { mayHandOver: true })
    const maud = await phone()
    await maud.goto(`${running.url}/sign/${token}`)
    await maud.getByRole('checkbox').check()
    await maud.getByRole('button', { name: 'Read the agreement' }).click()
    await maud.getByRole('button', { name: 'More' }).click()
    await maud.getByText('Somebody else should sign').click()
    await maud.getByLabel('Their full name').fill('Otis "Ötzi" Ward')
    await maud.getByLabel('Their email address').fill('otis+orchard@growers.example')
    await maud.getByLabel('Why they sign in your place').fill('He runs the orchard now.')
    await maud.getByRole('button', { name: 'Hand it over' }).click()
    await maud.getByRole('heading', { name: 'You have handed this over' }).waitFor()
    await signAs(new Client(running.url), await linkIn(ines, 'otis+orchard@growers.example'))
    await page.goto(`${running.url}/agreements/${id}`)
    await page.locator('p', { hasText: 'Otis "Ötzi" Ward' }).first().waitFor()
    expect(partyOf(await read(id), 'Grower').signedAt).not.to.equal(null)
    await maud.close()
  })

  for (const [language, names] of [
    ['en', { read: 'Read the agreement', exact: 'Exact pages', lang: 'en' }],
    ['fr', { read: 'Lire le contrat', exact: 'Pages exactes', lang: 'fr' }],
  ] as const)
    it(`has nothing that axe-core finds on any page of a signer, in ${language}; nothing moves while it loads`, async () => {
      const { token } = await out(language)
      const maud = await phone()
      let scripts = 0
      maud.on('response', (response) => {
        if (/\/assets\/[^?]+\.js$/.test(response.url()))
          void response.body().then(
            (body) => (scripts += gzipSync(body).length),
            () => undefined,
          )
      })
      await maud.goto(`${running.url}/sign/${token}`)
      await maud.getByRole('checkbox').waitFor()
      expect(await violations(maud)).to.deep.equal([])
      expect(await shifted(maud), 'how much the page moves while it loads').to.be.below(0.01)
      await maud.getByRole('checkbox').check()
      await maud.getByRole('button', { name: names.read }).click()
      await maud.getByRole('article').waitFor()
      expect(await violations(maud)).to.deep.equal([])
      // What a phone has loaded until it can be read, before the viewer of pages.
      expect(scripts).to.be.greaterThan(50_000)
      expect(scripts, 'bytes of script, compressed').to.be.at.most(200_000)
      expect(await maud.evaluate(() => document.documentElement.lang)).to.equal(names.lang)
      await maud.getByRole('button', { name: names.exact, exact: true }).click()
      await maud.locator('[data-page="1"] canvas').waitFor()
      expect(await violations(maud)).to.deep.equal([])
      await maud.close()
    })
})
