import { openBrowser } from '#test/support/browser.ts'
const url = 'http://127.0.0.1:4380'
const b = await openBrowser()
const p = await b.page()
await p.goto(url)
await p.getByRole('button', { name: 'Ines Hallow' }).click()
await p.waitForSelector('nav')
const list = await p.evaluate(async () => (await (await fetch('/api/templates')).json()) as {id:string,name:string}[])
const season = list.find(t => t.name.startsWith('Season'))!
await p.addInitScript(() => {
  const real = window.fetch
  const log: any[] = []
  Object.assign(window, { log })
  window.fetch = async (...a) => {
    const u = String(a[0] instanceof Request ? a[0].url : a[0])
    const t0 = performance.now()
    const r = await real(...a)
    const t1 = performance.now()
    if (u.includes('proof')) { const c = r.clone(); void c.json().then(j => log.push(['proof', t0, t1, j.milliseconds, performance.now(), j.row])) }
    else log.push([u, t0, t1])
    return r
  }
})
await p.goto(`${url}/templates/${season.id}`)
await p.waitForSelector('[data-page="1"] canvas')
await p.getByRole('textbox', { name: 'Template text' }).getByText('keeper of bees').click()
await p.waitForTimeout(1500)
const all: number[] = []
for (let i = 0; i < 30; i++) {
  const drawn = p.evaluate(() => new Promise<number>((resolve) => {
    const holder = document.querySelector('[data-page="1"] > div')!
    const o = new MutationObserver(() => { o.disconnect(); resolve(performance.now()) })
    o.observe(holder, { childList: true })
    ;(window as any).log.length = 0
    document.addEventListener('keydown', () => Object.assign(window, { typedAt: performance.now() }), { once: true, capture: true })
  }))
  await p.waitForTimeout(50)
  await p.keyboard.type('x')
  const at = await drawn
  const k = await p.evaluate(() => (window as any).typedAt)
  const log = await p.evaluate(() => (window as any).log) as any[]
  all.push(at - k)
  const T = await p.evaluate(() => (window as any).T) as any[]
  console.log('   ', T.map(([n, v]) => n + ' ' + Math.round(n === 'size' ? v : v - k)).join(', '))
  console.log(i, (at - k).toFixed(0), JSON.stringify(log.map(l => [l[0].slice(-20), ...l.slice(1).map((x: number, n: number) => n === 2 ? Math.round(x) : n===4? x: Math.round(x - k))])))
  await p.waitForTimeout(300)
}
all.sort((a,b)=>a-b)
console.log('median', all[15], 'max', all[29], all[28])
await b.close()
