import PdfKit from 'pdfkit'
import type { Page } from 'playwright-core'
import { placedBlank } from '#core/form/new-form.ts'
import { roleOf } from '#demo/season-packet.ts'
import { openBrowser, signIn } from '#test/support/browser.ts'
import { bringIn, formOf, pagesIn } from '#test/support/forms.ts'
import type { Client } from '#test/support/client.ts'

/** A file of this many pages, each full of words that no other has. */
function fileOf(pages: number): Promise<Uint8Array> {
  return new Promise((resolve) => {
    const file = new PdfKit({ size: 'LETTER', margin: 60 })
    const parts: Buffer[] = []
    file.on('data', (part: Buffer) => parts.push(part))
    file.on('end', () => resolve(Buffer.concat(parts)))
    for (let i = 0; i < pages; i++) {
      if (i) file.addPage()
      for (let line = 0; line < 40; line++)
        file.text(`Page ${i + 1}, line ${line + 1}: colonies set down at orchard gate ${i * 41 + line}.`)
    }
    file.end()
  })
}

/** 200 blanks of one page in ten columns. */
const many = () =>
  Array.from({ length: 200 }, (_, i) =>
    placedBlank(
      `many-${i}`,
      { x: 60 + (i % 10) * 48, y: 60 + Math.floor(i / 10) * 32, width: 40, height: 14 },
      { kind: 'text', role: 'grower', label: `Blank ${i + 1}`, required: false },
    ),
  )

/** Milliseconds from one frame to the next while something is done with the mouse. */
async function framesWhile(page: Page, act: () => Promise<void>): Promise<readonly number[]> {
  await page.evaluate(() => {
    const watched = window as unknown as { frames: number[]; watching: boolean }
    watched.frames = []
    watched.watching = true
    let before = performance.now()
    // Nothing here has a name that the compiler would add to: the page does not know what it adds.
    const again = [
      (now: number) => {
        watched.frames.push(now - before)
        before = now
        if (watched.watching) requestAnimationFrame(again[0]!)
      },
    ]
    requestAnimationFrame(again[0]!)
  })
  await act()
  return page.evaluate(() => {
    const watched = window as unknown as { frames: number[]; watching: boolean }
    watched.watching = false
    return watched.frames.slice(2)
  })
}

/** What the form editor claims: 200 blanks that move with the pointer, and a 300-page file that is seen at once. */
export async function formEditor(url: string, client: Client, say: (text: string) => void): Promise<void> {
  const full = await formOf(client, 'Two hundred', await fileOf(1), (content) => {
    const pages = pagesIn(content)
    const [first] = pages.content
    return {
      ...content,
      roles: roleOf('grower'),
      document: { ...pages, content: [{ ...first!, content: many() }] },
    }
  })
  const long = await fileOf(300)
  let started = performance.now()
  const { file } = await bringIn(client, 'long.pdf', long)
  say(
    `300 pages, ${(long.length / 1e6).toFixed(1)} MB, brought in: ${((performance.now() - started) / 1000).toFixed(1)} s`,
  )
  const { id } = await client.call('startForm', { body: { title: 'Long', shelf: null, files: [file] } })
  const browser = await openBrowser()
  try {
    const page = await browser.page()
    await signIn(page, url, 'Ines Hallow')
    started = performance.now()
    await page.goto(`${url}/templates/${id}`)
    await page.locator('[data-sheet] canvas').first().waitFor()
    say(
      `300-page form, from its address to the first page drawn: ${(performance.now() - started).toFixed(0)} ms`,
    )

    started = performance.now()
    await page.goto(`${url}/templates/${full}`)
    await page.locator('[data-sheet] canvas').first().waitFor()
    say(`one-page form with 200 blanks, the same: ${(performance.now() - started).toFixed(0)} ms`)
    await page
      .locator('[data-sheet]')
      .first()
      .focus()
      .catch(() => undefined)
    await page.locator('[data-placement]').first().click()
    await page.keyboard.press('Control+a')
    await page.waitForTimeout(500)
    const box = (await page.locator('[data-placement]').nth(44).boundingBox())!
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2]
    const frames = await framesWhile(page, async () => {
      await page.mouse.move(x, y)
      await page.mouse.down()
      for (let i = 0; i < 120; i++) await page.mouse.move(x + Math.sin(i / 9) * 60, y + i / 2)
      await page.mouse.up()
    })
    const sorted = [...frames].sort((a, b) => a - b)
    const late = frames.filter((each) => each > 20).length
    say(
      `200 blanks dragged at once: ${frames.length} frames, median ${sorted[Math.floor(sorted.length / 2)]!.toFixed(1)} ms, 95 % ${sorted[Math.floor(sorted.length * 0.95)]!.toFixed(1)} ms, most ${sorted.at(-1)!.toFixed(1)} ms; ${late} took more than 20 ms`,
    )
  } finally {
    await browser.close()
  }
}
