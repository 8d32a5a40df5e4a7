import { execFile } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { createCanvas, loadImage } from '@napi-rs/canvas'
import { expect } from 'chai'
import type { Page } from 'playwright-core'
import type { Signing } from '#contract/signing.ts'
import { emptyTemplate } from '#core/document/empty.ts'
import type { Inline } from '#core/document/tree.ts'
import { openBrowser } from '#test/support/browser.ts'
import { Client, eventually } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'
import { linkIn } from '#test/support/signing.ts'

// What the page shows in a place before signing is compared with what the sealed file has there, as pictures: by the ink's
// centre and by how far it reaches. The sealed file is drawn by another program (Poppler).

/** Points (1/72 inch) in a tenth of a millimetre. */
const TENTH = 0.1 * (72 / 25.4)
/** Each agreement has a signer of its own, whose newest mail is about it. */
const SIGNERS = ['tilda@wrenfield.example', 'ada@wrenfield.example'] as const

interface Picture {
  readonly data: Uint8ClampedArray
  readonly width: number
  readonly height: number
  /** Pixels of a point, and the pixel at which the page begins. */
  readonly scale: number
  readonly left: number
  readonly top: number
}

async function decoded(png: Uint8Array, place: Pick<Picture, 'scale' | 'left' | 'top'>): Promise<Picture> {
  const image = await loadImage(Buffer.from(png))
  const canvas = createCanvas(image.width, image.height)
  const pen = canvas.getContext('2d')
  pen.drawImage(image, 0, 0)
  const { data } = pen.getImageData(0, 0, image.width, image.height)
  return { data, width: image.width, height: image.height, ...place }
}

interface Box {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

/** Where the blue ink in a box is, in points of the page. */
function inkIn({ data, width, height, scale, left, top }: Picture, box: Box) {
  let [sum, x, y] = [0, 0, 0]
  let [first, last, upper, lower] = [Infinity, -Infinity, Infinity, -Infinity]
  const end = { x: left + (box.x + box.width) * scale, y: top + (box.y + box.height) * scale }
  for (let row = Math.max(0, Math.floor(top + box.y * scale)); row < Math.min(height, end.y); row++)
    for (
      let column = Math.max(0, Math.floor(left + box.x * scale));
      column < Math.min(width, end.x);
      column++
    ) {
      const at = 4 * (row * width + column)
      // Of the ink's own colour (#1a2f66), blue is 76 above red, a third of what red is below white; of print and frames a
      // twentieth.
      const blue = data[at + 2]! - data[at]!
      if (blue < 3 || blue < 0.2 * (255 - data[at]!)) continue
      const weight = blue / 76
      const [across, down] = [(column + 0.5 - left) / scale, (row + 0.5 - top) / scale]
      sum += weight
      x += across * weight
      y += down * weight
      if (weight < 0.5) continue
      ;[first, last] = [Math.min(first, across), Math.max(last, across)]
      ;[upper, lower] = [Math.min(upper, down), Math.max(lower, down)]
    }
  return { ink: sum / scale ** 2, x: x / sum, y: y / sum, first, last, upper, lower }
}

/** The centre of what is printed in a box, in points of the page. */
function printIn({ data, width, scale, left, top }: Picture, box: Box) {
  let [sum, x, y] = [0, 0, 0]
  for (let row = Math.floor(top + box.y * scale); row < top + (box.y + box.height) * scale; row++)
    for (
      let column = Math.floor(left + box.x * scale);
      column < left + (box.x + box.width) * scale;
      column++
    ) {
      const weight = 255 - data[4 * (row * width + column)]!
      sum += weight
      x += ((column + 0.5 - left) / scale) * weight
      y += ((row + 0.5 - top) / scale) * weight
    }
  return { x: x / sum, y: y / sum }
}

const blank = (
  id: string,
  kind: Signing['blanks'][number]['kind'],
  label: string,
  more: object = {},
): Inline => ({
  type: 'blank',
  attrs: { id, kind, role: 'grower', label, required: true, ...more },
})
const paragraph = (id: string, ...content: readonly Inline[]) =>
  ({ type: 'paragraph', attrs: { id, condition: null }, content }) as const
const text = (said: string): Inline => ({ type: 'text', text: said })

describe('what a signer sees is what is sealed', function () {
  this.timeout(180_000)
  let running: Running
  let ines: Client
  before(async () => {
    running = await startApp('seen', { sheet: false })
    ines = await Client.signedIn(running.url, 'ines.hallow')
  })
  after(() => running?.stop())

  /** An agreement that is out to one grower, with a place of every kind that somebody fills. */
  async function sent(to: string): Promise<string> {
    const title = `Hive inspection ${SIGNERS.findIndex((each) => each === to) + 1}`
    const { id } = await ines.call('startTemplate', { body: { title, shelf: null, from: null } })
    const { draftVersion } = await ines.call('template', { params: { id } })
    const base = emptyTemplate(title)
    const content = {
      ...base,
      roles: [
        {
          key: 'grower',
          label: 'Grower',
          shape: 'circle' as const,
          order: 1,
          fill: { rule: 'standing person' as const, name: 'Tilda Ågren', email: to, title: '' },
        },
      ],
      document: {
        type: 'doc' as const,
        content: [
          ...base.document.content,
          paragraph(
            'p1',
            text('Looked after by '),
            blank('who', 'name', 'Name'),
            text(' of '),
            blank('farm', 'text', 'Farm'),
          ),
          paragraph(
            'p2',
            text('Colonies '),
            blank('colonies', 'number', 'Colonies'),
            text(' in good health '),
            blank('sound', 'tick', 'Sound'),
          ),
          paragraph(
            'p3',
            text('Paid by '),
            blank('paid', 'choice', 'Paid by', { options: ['check', 'transfer', 'cash'], least: 1, most: 2 }),
          ),
          paragraph('p4', blank('typed', 'signature', 'Typed signature')),
          paragraph('p5', text(' ')),
          paragraph('p6', blank('drawn', 'signature', 'Drawn signature')),
          paragraph('p7', text(' ')),
          paragraph('p8', blank('mark', 'initials', 'Initials')),
        ],
      },
    }
    const saved = await ines.call('saveDraft', { params: { id }, body: { version: draftVersion, content } })
    await ines.call('publish', { params: { id }, body: { version: saved.version, note: '' } })
    const { records } = await ines.call('records', { params: { kind: 'customer' } })
    const made = await ines.call('makeOneAgreement', {
      params: { kind: 'customer', id: records[0]!.id },
      body: { templateId: id, answers: {}, occasion: randomUUID(), another: true },
    })
    const { refused } = await ines.call('sendAgreements', { body: { agreements: [made.id], unread: true } })
    expect(refused).to.deep.equal([])
    return made.id
  }

  it('keeps what is typed into a place of the exact pages, there and on the server, also after a reload', async () => {
    await sent(SIGNERS[0])
    const token = await linkIn(ines, SIGNERS[0])
    const params = { token }
    await new Client(running.url).call('consent', { params })
    const browser = await openBrowser()
    const page = await browser.page()
    await page.goto(`${running.url}/sign/${token}`)
    await page.getByRole('button', { name: 'Exact pages', exact: true }).click()
    const field = page.getByRole('textbox', { name: 'Colonies' })
    await field.fill('many')
    await field.blur()
    await page.getByRole('alert').waitFor()
    await field.fill('1,480')
    await field.blur()
    await page.locator('[data-page="1"] svg').getByText('1480').waitFor()
    await page.getByRole('checkbox', { name: 'Sound' }).check()
    await page.getByRole('checkbox', { name: 'Paid by: transfer' }).check()
    await eventually(async () => {
      const { values, blanks } = await new Client(running.url).call('signing', { params })
      const of = (label: string) => values[blanks.find((each) => each.label === label)!.id]
      return (
        JSON.stringify([of('Colonies'), of('Sound'), of('Paid by')]) ===
        JSON.stringify([{ kind: 'text', text: '1480' }, { kind: 'tick' }, { kind: 'choice', chosen: [1] }])
      )
    }, 'what was typed and ticked')
    await page.reload()
    await page.getByRole('button', { name: 'Exact pages', exact: true }).click()
    await page.locator('[data-page="1"] svg').getByText('1480').waitFor()
    expect(await page.getByRole('checkbox', { name: 'Paid by: transfer' }).isChecked()).to.equal(true)
    expect(await page.getByRole('checkbox', { name: 'Paid by: cash' }).isChecked()).to.equal(false)
    expect(browser.complaints).to.deep.equal([])
    await browser.close()
  })

  it('to a tenth of a millimetre, on a phone and a desk, at every zoom', async () => {
    const agreement = await sent(SIGNERS[1])
    const token = await linkIn(ines, SIGNERS[1])
    const params = { token }
    const signer = new Client(running.url)
    await signer.call('consent', { params })
    const { blanks } = await signer.call('signing', { params })
    const idOf = (label: string) => blanks.find((each) => each.label === label)!.id
    await signer.call('fillBlanks', {
      params,
      body: {
        values: {
          [idOf('Name')]: { kind: 'text', text: 'Tilda Ågren' },
          // Too long for its place: it is set smaller.
          [idOf('Farm')]: { kind: 'text', text: 'Wrenfield Orchards and Nurseries, Lower Kingsgate' },
          [idOf('Colonies')]: { kind: 'text', text: '1480' },
          [idOf('Sound')]: { kind: 'tick' },
          [idOf('Paid by')]: { kind: 'choice', chosen: [0, 2] },
          [idOf('Typed signature')]: { kind: 'typed', text: 'Tilda Ågren', script: 'flowing' },
          [idOf('Drawn signature')]: {
            kind: 'drawn',
            // Pressed hard: of hairs, each program has its own darkness.
            strokes: [
              [0, 0.2, 0.2, 0, 0.35, 0.3, 0.6, 0.05, 1, 0.25],
              [0.1, 0.32, 0.8, 0.3],
            ].map((flat) =>
              Array.from({ length: flat.length / 2 }, (_, i): [number, number, number] => [
                flat[2 * i]!,
                flat[2 * i + 1]!,
                0.9,
              ]),
            ),
            height: 0.35,
          },
          [idOf('Initials')]: { kind: 'typed', text: 'TÅ' },
        },
      },
    })
    const looks: { readonly name: string; readonly picture: Picture }[] = []
    for (const [width, height, density, larger] of [
      [390, 844, 3, 0],
      [390, 844, 2.625, 2],
      [1280, 800, 1.25, 1],
    ] as const) {
      const browser = await openBrowser({ width, height, density })
      const page = await browser.page()
      looks.push({
        name: `${width} at ${density}, ${larger} times larger`,
        picture: await seen(page, `${running.url}/sign/${token}`, density, larger),
      })
      expect(browser.complaints).to.deep.equal([])
      await browser.close()
    }
    await signer.call('finishSigning', { params })
    const sealed = await eventually(
      async () => {
        const { rows } = await running.app.pool.query<{ sha: string | null }>(
          'select executed_sha256 sha from agreement where id = $1',
          [agreement],
        )
        return rows[0]!.sha
      },
      'the seal',
      60,
    )
    const file = await drawnByPoppler(await running.app.files.get(sealed))
    const places = blanks.flatMap((each) =>
      each.kind === 'date'
        ? []
        : each.options.length
          ? each.options.map((at, i) => ({ ...each, ...at, label: `${each.label} ${i + 1}` }))
          : [each],
    )
    expect(places).to.have.length(10)
    const title = { x: 40, y: 40, width: 530, height: 50 }
    const printed = printIn(file, title)
    for (const { name, picture: measured } of looks) {
      // A page begins between two pixels as a browser measures it, and on one as it draws: what is printed tells which.
      const shown = printIn(measured, title)
      const picture = {
        ...measured,
        left: measured.left + (shown.x - printed.x) * measured.scale,
        top: measured.top + (shown.y - printed.y) * measured.scale,
      }
      expect(Math.hypot(shown.x - printed.x, shown.y - printed.y) * measured.scale, name).to.be.below(1.5)
      for (const { label, kind, x, y, width, height } of places) {
        // Beside a signature stands whose it is: in the sealed file only.
        const box = {
          x: x - 1,
          y: y - 9,
          width: kind === 'signature' ? width * 0.58 : width + 2,
          height: height + 14,
        }
        const own =
          kind === 'tick' || kind === 'choice'
            ? { x: x - 1, y: y - 1, width: width + 2, height: height + 2 }
            : box
        const [before, after] = [inkIn(picture, own), inkIn(file, own)]
        if (label === 'Paid by 2') {
          // An open place is tinted; it has no ink.
          expect(before.first, `${label}, ${name}`).to.equal(Infinity)
          expect(after.ink, label).to.equal(0)
          continue
        }
        expect(before.ink, `ink of ${label}, ${name}`).to.be.within(after.ink * 0.9, after.ink * 1.1)
        const where = `${label}, ${name}: ${JSON.stringify([before, after])}`
        // Two programs draw the edge of a letter alike to a seventh of a pixel.
        const most = TENTH + 0.15 / picture.scale
        expect(Math.abs(before.x - after.x), `across, ${where}`).to.be.at.most(most)
        expect(Math.abs(before.y - after.y), `down, ${where}`).to.be.at.most(most)
        for (const edge of ['first', 'last', 'upper', 'lower'] as const)
          expect(Math.abs(before[edge] - after[edge]), `${edge}, ${where}`).to.be.at.most(
            TENTH + 1.5 / picture.scale,
          )
      }
    }
  })

  /** The first page as it is seen, with nothing pointed at. */
  async function seen(page: Page, url: string, density: number, larger: number): Promise<Picture> {
    await page.goto(url)
    await page.getByRole('button', { name: 'Exact pages', exact: true }).click()
    await page.locator('[data-page="1"] canvas').waitFor()
    for (let i = 0; i < larger; i++) await page.getByRole('button', { name: 'Larger' }).click()
    await page.evaluate(() => document.fonts.ready)
    await page.waitForTimeout(800)
    const first = page.locator('[data-page="1"]')
    // Larger than the window, it is looked at piece by piece; all of them together are one picture.
    const { width, height } = (await first.boundingBox())!
    const whole = createCanvas(Math.ceil(width * density), Math.ceil(height * density))
    const pen = whole.getContext('2d')
    const view = await first.evaluate((element) => {
      const scroller = element.closest<HTMLElement>('[role="document"]')!
      return { width: scroller.clientWidth, height: scroller.clientHeight }
    })
    for (let down = 0; down < height; down += view.height - 20)
      for (let across = 0; across < width; across += view.width - 20) {
        const box = await first.evaluate(
          (element, to) => {
            const scroller = element.closest<HTMLElement>('[role="document"]')!
            const at = element.getBoundingClientRect()
            const frame = scroller.getBoundingClientRect()
            scroller.scrollBy(at.left - frame.left + to.across, at.top - frame.top + to.down)
            const now = element.getBoundingClientRect()
            return { left: now.left, top: now.top, frame: { x: frame.left, y: frame.top } }
          },
          { across, down },
        )
        await page.waitForTimeout(150)
        const shot = await loadImage(await page.screenshot())
        pen.save()
        const [x, y] = [(box.frame.x - box.left) * density, (box.frame.y - box.top) * density]
        pen.beginPath()
        pen.rect(x, y, view.width * density, view.height * density)
        pen.clip()
        pen.drawImage(shot, -box.left * density, -box.top * density)
        pen.restore()
      }
    const scale = (width / 612) * density
    return decoded(await whole.encode('png'), { scale, left: 0, top: 0 })
  }
})

async function drawnByPoppler(pdf: Uint8Array): Promise<Picture> {
  const folder = await mkdtemp(join(tmpdir(), 'brevan-seen-'))
  try {
    await writeFile(join(folder, 'sealed.pdf'), pdf)
    await promisify(execFile)('pdftoppm', ['-png', '-r', '288', '-f', '1', '-l', '1', 'sealed.pdf', 'page'], {
      cwd: folder,
    })
    const name = (await import('node:fs')).readdirSync(folder).find((each) => each.endsWith('.png'))!
    return await decoded(await readFile(join(folder, name)), { scale: 4, left: 0, top: 0 })
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}
