import { openBrowser } from '#test/support/browser.ts'
const url = 'http://127.0.0.1:4380'
const b = await openBrowser({ width: 1280, height: 800 })
const p = await b.page()
await p.goto(url)
await p.getByRole('button', { name: 'Ines Hallow' }).click()
await p.waitForSelector('nav')
await p.goto(url + '/agreements')
await p.getByRole('row').nth(1).click()
await p.getByRole('link', { name: 'Change the wording' }).click()
await p.waitForTimeout(4000)
console.log(
  await p.evaluate(async () => {
    const id = location.pathname.split('/')[2]
    const w = await fetch('/api/agreements/' + id + '/wording').then((r) => r.json())
    return JSON.stringify(w.content.document.content[6].content[1]).slice(0, 400)
  }),
)
p.on('response', async (r) => {
  if (r.url().includes('/proof')) console.log(r.status(), (await r.text()).slice(0, 200))
})
await p.getByRole('textbox', { name: 'Template text' }).getByText('keeper of bees').click()
await p.keyboard.press('End')
await p.keyboard.type(' Bees of this.')
await p.waitForTimeout(2500)
console.log(await p.evaluate(() => document.querySelector('.merge-field')?.outerHTML))
await p.screenshot({ path: '/tmp/w1.png' })
await b.close()
