import { openBrowser } from '#test/support/browser.ts'
const url = 'http://127.0.0.1:4380'
const [who, path, out, ...acts] = process.argv.slice(2)
const b = await openBrowser({ width: Number(process.env.W ?? 1280), height: Number(process.env.H ?? 800) })
const p = await b.page()
if (who !== '-') {
  await p.goto(url)
  await p.getByRole('button', { name: who! }).click()
  await p.waitForSelector('nav')
}
await p.goto(url + path)
await p.waitForTimeout(2500)
for (const a of acts) {
  await new Function('p', 'return (async()=>{' + a + '})()')(p)
  await p.waitForTimeout(1200)
}
await p.screenshot({ path: out! })
console.log(p.url(), b.complaints)
await b.close()
