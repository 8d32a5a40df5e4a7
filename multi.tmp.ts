import { openBrowser } from '#test/support/browser.ts'
const url = 'http://127.0.0.1:4380'
const b = await openBrowser({ width: 1280, height: 800 })
const p = await b.page()
await p.goto(url)
await p.getByRole('button', { name: 'Ines Hallow' }).click()
await p.waitForSelector('nav')
await p.goto(url + '/templates')
await p
  .getByText(process.argv[2] ?? 'Colony sale')
  .first()
  .click()
await p.waitForTimeout(3500)
for (const t of (process.argv[3] ?? 'Text,Data,Roles,Page').split(',')) {
  await p.getByRole('tab', { name: t }).click()
  await p.waitForTimeout(900)
  await p.screenshot({ path: `/tmp/m-${t.toLowerCase().replace(/\W/g, '')}.png` })
}
console.log(b.complaints)
await b.close()
