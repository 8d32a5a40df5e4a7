// Makes docs/screenshots/ anew from the demo: `npx tsx scripts/screenshots.ts`, with a fresh `./brevan demo --fresh` running.
import { mkdir } from 'node:fs/promises'
import { openBrowser } from '#test/support/browser.ts'

const url = process.env['BREVAN_URL'] ?? 'http://127.0.0.1:4380'
const folder = 'docs/screenshots'
await mkdir(folder, { recursive: true })
const browser = await openBrowser()
const page = await browser.page()
const settle = () => page.waitForTimeout(1200)
const shot = async (name: string, of = page) => {
  await of.waitForTimeout(900)
  await of.screenshot({ path: `${folder}/${name}.png` })
}
const signIn = async (name: string) => {
  await page.context().clearCookies()
  await page.goto(url)
  await page.getByRole('button', { name }).click()
  await page.getByRole('navigation', { name: 'Areas' }).waitFor()
}

await page.goto(url)
await page.getByText('The demo’s people').waitFor()
await shot('sign-in')

await signIn('Ines Hallow')
await page.getByRole('link', { name: 'Templates' }).click()
await page.getByText('Season pollination agreement').click()
await page.locator('[data-page="1"] canvas').waitFor()
await page.getByText('Organic handling').first().scrollIntoViewIfNeeded()
await page.getByLabel('Row after (Alt →)').click()
await settle()
await page.getByLabel('Trace of Delivery from').first().hover()
await shot('studio')

await page.getByRole('link', { name: 'Records' }).click()
await page.getByLabel('Sheet file').setInputFiles('demo/sheets/bookings-2027.csv')
await page.getByText('0 rows ready').waitFor()
await page.getByLabel('Column for First season').selectOption('New grower')
await page.getByText('219 rows ready').waitFor()
await shot('mapping')
await page.getByLabel('Name of the run').fill('Season 2027')
await page.getByRole('button', { name: 'Start a run' }).click()
await page.getByRole('tab', { name: 'Wordings 9' }).waitFor()
await page.locator('[data-page="1"] canvas').waitFor()
await shot('run-wordings')
await page.getByRole('button', { name: /Generate/ }).click()
await page.getByText(/a second, .+ left/).waitFor()
await page.waitForTimeout(4000)
await shot('run-progress')
await page.getByText('219 agreements made').waitFor({ timeout: 90_000 })

await signIn('Silas Brandt')
const desk = page.getByRole('region', { name: 'For you to approve' })
await desk.waitFor()
await shot('desk')
await desk.getByRole('button').first().click()
await page.getByRole('button', { name: 'Approve' }).waitFor()
await shot('approval')
await page.getByRole('button', { name: 'Approve' }).click()
await page.getByText('Approved.').waitFor()

await signIn('Ines Hallow')
await page.goto(`${url}/agreements?state=cleared`)
const boxes = page.getByRole('checkbox', { name: /^Select (?!all)/ })
await boxes.first().waitFor()
for (let i = 0; i < 6; i++) await boxes.nth(i).check()
await page.getByRole('button', { name: 'Send 6 agreements' }).click()
await page.getByRole('dialog').getByRole('button', { name: 'Send', exact: true }).click()
await page.getByText('6 agreements sent.').waitFor()
await page.getByRole('link', { name: 'Post room' }).click()
await page.getByRole('list', { name: 'Mails' }).getByRole('link').first().click()
await shot('post-room')

const sign = async (name: string | null) => {
  const link = await page
    .frameLocator('iframe')
    .getByRole('link', { name: 'Read and sign' })
    .getAttribute('href')
  const signing = await browser.page()
  await signing.goto(link!)
  if (name) await shot('signing-consent', signing)
  await signing.getByRole('checkbox').check()
  await signing.getByRole('button', { name: 'Read the agreement' }).click()
  await signing.locator('[data-page="1"] canvas').waitFor()
  await signing.getByRole('button', { name: /^Initials, page 1/ }).click()
  await signing.getByRole('button', { name: 'Use these initials' }).click()
  for (const each of [2, 3, 4, 5])
    await signing.getByRole('button', { name: `Initials, page ${each}`, exact: true }).click()
  if (name) await shot(name, signing)
  await signing.getByRole('button', { name: 'Signature', exact: true }).click()
  await signing.getByRole('button', { name: 'Use this signature' }).click()
  await signing.getByText('Everything is filled in.').waitFor()
  await signing.getByRole('button', { name: 'Sign and finish' }).click()
  await signing.getByRole('heading', { name: /You have signed|Signed by everyone/ }).waitFor()
  await signing.close()
}
await sign('signing')
await page.reload()
await page
  .getByRole('list', { name: 'Mails' })
  .getByRole('link')
  .filter({ hasText: 'tobias.renn' })
  .first()
  .click()
await settle()
await sign(null)

await page.waitForTimeout(2500)
await page.goto(`${url}/agreements?state=executed`)
await page.getByRole('row').nth(1).click()
await page.getByRole('tab', { name: 'trail' }).click()
await shot('trail')
await page.goto(`${url}/agreements`)
await page.getByRole('row').nth(1).waitFor()
await shot('register')
await page.getByRole('link', { name: 'Rules' }).click()
await shot('rules')

await browser.close()
process.stdout.write(
  browser.complaints.length
    ? `${browser.complaints.join('\n')}\n`
    : 'Made without a complaint in the console.\n',
)
