import { openBrowser } from '#test/support/browser.ts'
const url = 'http://127.0.0.1:4380'
const b = await openBrowser({ width: 1280, height: 800 })
const p = await b.page()
await p.goto(url)
await p.getByRole('button', { name: 'Ines Hallow' }).click()
await p.waitForSelector('nav')
const sheets = await p.evaluate(() => fetch('/api/sheets').then((r) => r.json()))
const templates = await p.evaluate(() => fetch('/api/templates').then((r) => r.json()))
const sheet = sheets.find((s: { name: string }) => s.name.startsWith('bookings')).id
const template = templates.find((s: { name: string }) => s.name.startsWith('Season')).id
const { id } = await p.evaluate(
  (body) =>
    fetch('/api/runs', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    }).then((r) => r.json()),
  { name: 'Season 2027', templateId: template, sheetId: sheet },
)
await p.waitForTimeout(2500)
await p.goto(`${url}/runs/${id}`)
await p.waitForTimeout(2500)
await p.screenshot({ path: '/tmp/r1.png' })
for (const [t, f] of [
  ['Need a hand', 'r2'],
  ['All rows', 'r3'],
  ['Set-up', 'r4'],
  ['Files', 'r5'],
] as const) {
  await p.getByRole('tab', { name: t }).click()
  await p.waitForTimeout(1200)
  await p.screenshot({ path: `/tmp/${f}.png` })
}
console.log(id, b.complaints)
await b.close()
