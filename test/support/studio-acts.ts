import { setTimeout as pause } from 'node:timers/promises'
import type { Page } from 'playwright-core'
import { emptyTemplate } from '#core/document/empty.ts'
import type { TemplateContent } from '#core/document/template.ts'
import type { Block, DocumentTree } from '#core/document/tree.ts'

// Acts of somebody who writes in the studio, from a seed: the same seed does the same.

const paragraph = (id: string, text: string, more: object = {}): Block => ({
  type: 'paragraph',
  attrs: { id, condition: null, ...more },
  content: [{ type: 'text', text }],
})
const clause = (id: string, text: string, more: object = {}, inner: readonly Block[] = []): Block => ({
  type: 'clause',
  attrs: { id, condition: null, ...more },
  content: [paragraph(`${id}p`, text), ...inner],
})

/** A short agreement with everything that may get lost: conditions, a chain of alternatives, a repeat, blanks, levels. */
export function modelTemplate(title: string): TemplateContent {
  const empty = emptyTemplate(title)
  return {
    ...empty,
    outline: [
      { name: 'grower', label: 'Grower', type: 'text', required: true, example: 'Alder Orchards' },
      { name: 'fee', label: 'Fee', type: 'number', required: true, example: '120' },
      { name: 'leased', label: 'Land leased', type: 'yes/no', required: true, example: 'yes' },
      {
        name: 'lots',
        label: 'Lots',
        type: 'list',
        required: false,
        items: [{ name: 'kind', label: 'Kind', type: 'text', required: true, example: 'strong' }],
      },
    ],
    roles: [
      { key: 'grower', label: 'Grower', shape: 'circle', order: 1, fill: { rule: 'ask' } },
      { key: 'keeper', label: 'Keeper', shape: 'square', order: 2, fill: { rule: 'whoever sends' } },
    ],
    document: {
      type: 'doc',
      content: [
        {
          type: 'heading',
          attrs: { id: 'h', condition: null, level: 1 },
          content: [{ type: 'text', text: 'Model a001' }],
        },
        clause('c001', 'Colonies b001.', {}, [
          clause('c11', 'Leased b002.', { condition: 'leased' }),
          clause('c12', 'Owned b003.', {}),
        ]),
        clause('c002', 'Dear c001.', { condition: 'fee > 100' }),
        clause('c003', 'Fair c002.', { condition: 'fee > 50', alternative: true }),
        clause('c004', 'Cheap c003.', { alternative: true }),
        paragraph('p1', 'For each d001.', { repeat: 'lots' }),
        clause('c005', 'Keep d002.', { keep: true, condition: 'grower = "Alder Orchards"' }),
        {
          type: 'clause',
          attrs: { id: 'c006', condition: null },
          content: [
            {
              type: 'paragraph',
              attrs: { id: 'c6p', condition: null },
              content: [
                { type: 'text', text: 'Initials e001 ' },
                {
                  type: 'blank',
                  attrs: { id: 'e', kind: 'initials', role: 'grower', label: 'initials', required: true },
                },
              ],
            },
          ],
        } as Block,
        paragraph('p2', 'At the end f001.'),
        { type: 'signatureBlock', attrs: { id: 's', condition: null, roles: ['grower', 'keeper'] } },
      ],
    },
  }
}

interface Piece {
  readonly type: string
  readonly text?: string
  readonly attrs?: Readonly<Record<string, unknown>>
  readonly content?: readonly Piece[]
}

/** Three figures always: half of such a word is none. */
const TOKEN = /\b[a-z]\d{3}\b/g

const textOf = (piece: Piece): string => piece.text ?? (piece.content ?? []).map(textOf).join(' ')

/** The first of them in the first line of a passage. */
function firstToken(piece: Piece): string | null {
  if (['paragraph', 'heading', 'phrase'].includes(piece.type)) return textOf(piece).match(TOKEN)?.[0] ?? null
  const [first] = piece.content ?? []
  return first ? firstToken(first) : null
}

const standsIn = (document: DocumentTree, word: string): boolean =>
  textOf(document as unknown as Piece).includes(word)

interface Fates {
  /** What happens to each passage, by the first word in it. */
  readonly passages: readonly { readonly word: string; readonly says: readonly string[] }[]
  /** Whose blanks and signatures there are. */
  readonly roles: readonly string[]
}

function fates(document: DocumentTree): Fates {
  const passages: { word: string; says: string[] }[] = []
  const roles: string[] = []
  const visit = (piece: Piece): void => {
    const { condition, alternative, repeat, role, roles: signing } = piece.attrs ?? {}
    const word = firstToken(piece)
    if (piece.type === 'blank') roles.push(`blank of ${String(role)}`)
    else if (piece.type === 'signatureBlock') roles.push(`signatures of ${(signing as string[]).join(', ')}`)
    else if (word && (condition || alternative || repeat))
      passages.push({
        word,
        says: [alternative ? 'else' : '', String(condition ?? ''), String(repeat ?? '')].filter(Boolean),
      })
    piece.content?.forEach(visit)
  }
  visit(document as unknown as Piece)
  return { passages, roles }
}

/** What happened to a passage, or whose blank it was, and does not any more: moving loses none of it. */
export function lost(before: DocumentTree, after: DocumentTree): readonly string[] {
  const [was, is] = [fates(before), fates(after)]
  const [known, paths] = [standing(before), standing(after)]
  const left = [...is.roles]
  return [
    ...was.passages.flatMap(({ word, says }) =>
      known.has(word) && (paths.has(word) || !standsIn(after, word))
        ? says.filter((each) => !paths.get(word)?.includes(each)).map((each) => `${word}: ${each}`)
        : [],
    ),
    ...was.roles.filter((each) => {
      const at = left.indexOf(each)
      if (at >= 0) left.splice(at, 1)
      return at < 0
    }),
  ]
}

/** Under which conditions and repeats each word with a figure stands, by what is around it. */
export function standing(document: DocumentTree): ReadonlyMap<string, string> {
  const found = new Map<string, string>()
  const counts = new Map<string, number>()
  const visit = (piece: Piece, around: string): void => {
    const { condition, alternative, repeat } = piece.attrs ?? {}
    // Halves of a passage that was split have the same condition each: once said is said.
    const own =
      condition || alternative || repeat
        ? `${alternative ? 'else ' : ''}${String(condition ?? '')} ${String(repeat ?? '')}; `
        : ''
    const path = around.endsWith(own) ? around : around + own
    for (const word of piece.text?.match(TOKEN) ?? []) {
      counts.set(word, (counts.get(word) ?? 0) + 1)
      found.set(word, path)
    }
    piece.content?.forEach((inner) => visit(inner, path))
  }
  visit(document as unknown as Piece, '')
  // Of a word that stands at two places it cannot be said.
  for (const [word, count] of counts) if (count > 1) found.delete(word)
  return found
}

/** The document in short, for whoever reads why a law did not hold. */
export function sketch(document: DocumentTree): string {
  const draw = (piece: Piece): string =>
    piece.text !== undefined
      ? `“${piece.text}”`
      : `${piece.type}${piece.attrs?.['alternative'] ? ' else' : ''}${piece.attrs?.['condition'] ? ` if ${String(piece.attrs['condition'])}` : ''}(${(piece.content ?? []).map(draw).join(' ')})`
  return document.content.map((block) => `\n  ${draw(block as unknown as Piece)}`).join('')
}

/** The document without what is not said: attributes that are null, no or empty. */
export function plain(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(plain)
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(
    Object.entries(value)
      .filter(
        ([key, each]) =>
          each !== null &&
          each !== undefined &&
          each !== false &&
          !(key === 'content' && (each as unknown[]).length === 0),
      )
      .map(([key, each]) => [key, plain(each)]),
  )
}

/** Of the editor's places what is asked here. */
interface Place {
  readonly depth: number
  readonly parentOffset: number
  readonly parent: { readonly content: { readonly size: number } }
  index(depth: number): number
  indexAfter(depth: number): number
  node(depth: number): { readonly childCount: number }
}

/** Somebody at the keyboard of one studio. */
export class Writer {
  readonly did: string[] = []
  private words = 0

  private word = () => `w${String(++this.words).padStart(3, '0')}`

  constructor(
    private readonly page: Page,
    private readonly random: () => number,
  ) {}

  private below = (most: number) => Math.floor(this.random() * most)
  private oneOf = <T>(all: readonly T[]): T => all[this.below(all.length)]!

  /** The document as the page has it. */
  read = (): Promise<DocumentTree> =>
    this.page.evaluate(() =>
      (
        document.querySelector('.page-text') as unknown as { editor: { getJSON(): DocumentTree } }
      ).editor.getJSON(),
    )

  private async menu(name: string | RegExp, key: string): Promise<void> {
    await this.page.getByRole('option', { name }).first().waitFor({ timeout: 5000 })
    await this.page.keyboard.press(key)
  }

  /** Scrolls to what stands at this share of all that is found, and says where it is; null where nothing is found. */
  private box = (selector: string, share: number) =>
    this.page.evaluate(
      ([found, at]) => {
        const all = document.querySelectorAll(found)
        const element = all[Math.floor(at * all.length)]
        if (!element) return null
        const pane = element.closest('[data-scroller]')!.getBoundingClientRect()
        let box = element.getBoundingClientRect()
        if (box.top < pane.top || box.bottom > pane.bottom) element.scrollIntoView({ block: 'center' })
        box = element.getBoundingClientRect()
        return { x: box.x, y: box.y, width: box.width, height: box.height }
      },
      [selector, share] as const,
    )

  /** Clicks into one of the text's lines, at its start, its end or in it. */
  private async place(): Promise<void> {
    const box = await this.box('.page-text :is(p, h1, h2, h3)', this.random())
    if (!box) return void (await this.page.locator('.page-text').click())
    await this.page.mouse.click(box.x + Math.min(box.width - 2, 4 + this.below(90)), box.y + box.height / 2)
    const where = this.below(3)
    if (where < 2) await this.page.keyboard.press(where ? 'End' : 'Home')
  }

  /** Selects a run of whole passages beside each other, clauses or paragraphs, by mouse and keys. */
  private async selectPassages(): Promise<boolean> {
    const found = await this.page.evaluate(() => {
      const lines = [...document.querySelectorAll('.page-text :is(p, h1, h2, h3)')]
      return [...document.querySelectorAll('.page-text > :is(section.clause, p)')].map((block) => {
        const own = lines.filter((line) => block.contains(line))
        const [first, last] = [own[0]!, own.at(-1)!].map((line) => (lines.indexOf(line) + 0.5) / lines.length)
        return { first: first!, last: last! }
      })
    })
    if (found.length < 3) return false
    const from = this.below(found.length - 1)
    const to = Math.min(found.length - 1, from + this.below(3))
    const lines = '.page-text :is(p, h1, h2, h3)'
    const start = (await this.box(lines, found[from]!.first))!
    await this.page.mouse.click(start.x + 2, start.y + 6)
    await this.page.keyboard.press('Home')
    const end = (await this.box(lines, found[to]!.last))!
    await this.page.keyboard.down('Shift')
    await this.page.mouse.click(end.x + end.width - 2, end.y + end.height - 6)
    await this.page.keyboard.up('Shift')
    await this.page.keyboard.press('Shift+End')
    return true
  }

  /** Whether what is selected begins where a passage of the first level does and ends where one does: no line of them, no part. */
  private selectsWhole = (): Promise<boolean> =>
    this.page.evaluate(() => {
      const { editor } = document.querySelector('.page-text') as unknown as {
        editor: {
          state: {
            selection: {
              empty: boolean
              $from: Place
              $to: Place
            }
          }
        }
      }
      const { empty, $from, $to } = editor.state.selection
      for (let depth = 1; depth < $from.depth; depth++) if ($from.index(depth) > 0) return false
      for (let depth = 1; depth < $to.depth; depth++)
        if ($to.indexAfter(depth) < $to.node(depth).childCount) return false
      return !empty && $from.parentOffset === 0 && $to.parentOffset === $to.parent.content.size
    })

  readonly acts: Readonly<Record<string, () => Promise<void>>> = {
    type: async () => this.page.keyboard.type(` ${this.word()}`),
    'field by key': async () => {
      await this.page.keyboard.type(' {{gro')
      await this.menu(/^Grower/, this.oneOf(['Enter', 'Tab']))
    },
    'new field': async () => {
      await this.page.keyboard.type(` {{made ${this.word()}`)
      await this.menu(/New field/, this.oneOf(['Enter', 'Tab']))
    },
    'heading by slash': async () => {
      await this.page.keyboard.type(' /heading 2')
      await this.menu(/Heading 2/, 'Enter')
    },
    'clause by slash': async () => {
      await this.page.keyboard.type(' /clause')
      await this.menu(/^Clause/, 'Enter')
    },
    'signatures by slash': async () => {
      await this.page.keyboard.type(' /signatures of')
      await this.menu(/Signatures of everyone/, 'Enter')
      await this.page.keyboard.press('Backspace')
    },
    enter: () => this.page.keyboard.press('Enter'),
    tab: () => this.page.keyboard.press('Tab'),
    'shift tab': () => this.page.keyboard.press('Shift+Tab'),
    toggle: () => this.page.keyboard.press('Control+Alt+c'),
    backspace: () => this.page.keyboard.press('Backspace'),
    bold: async () => {
      await this.page.keyboard.press('Shift+Home')
      await this.page.keyboard.press('Control+b')
      await this.page.keyboard.press('End')
    },
    'cut and paste': async () => {
      if (!(await this.selectPassages()) || !(await this.selectsWhole())) return
      await this.page.keyboard.press('Control+x')
      await this.place()
      await this.page.keyboard.press('End')
      await this.page.keyboard.press('Control+v')
    },
    condition: async () => {
      await this.page.getByRole('button', { name: 'Condition', exact: true }).click()
      const box = this.page.getByLabel('The condition as an expression')
      await box.fill(this.oneOf(['leased', 'fee > 7', 'not(leased)']))
      await this.page.getByRole('button', { name: 'Set', exact: true }).click()
    },
    blank: async () => {
      await this.page.getByRole('button', { name: 'Blank', exact: true }).click()
      await this.page.getByRole('button', { name: 'Insert' }).click()
      await this.page.keyboard.type(` ${this.word()}`)
    },
    'change of a panel': async () => {
      await this.page.getByRole('tab', { name: 'Page' }).click()
      await this.page.getByLabel(/^Head of each page/).fill(`Head ${this.word()}`)
      await this.page.getByRole('tab', { name: 'Text' }).click()
    },
    'leave and come back': async () => {
      await this.page.getByRole('link', { name: 'Records' }).click()
      await this.page.getByRole('heading', { name: 'Records' }).waitFor()
      await this.page.goBack()
      await this.page.locator('.page-text').waitFor()
    },
    undo: async () => {
      for (let i = this.below(4); i >= 0; i--) await this.page.keyboard.press('Control+z')
    },
    redo: async () => {
      for (let i = this.below(3); i >= 0; i--) await this.page.keyboard.press('Control+Shift+z')
    },
  }

  /** Which acts, how often each among a hundred or so. */
  private static readonly OFTEN: Readonly<Record<string, number>> = {
    type: 22,
    'field by key': 6,
    'new field': 3,
    'heading by slash': 1,
    'clause by slash': 2,
    'signatures by slash': 1,
    enter: 12,
    tab: 6,
    'shift tab': 6,
    toggle: 4,
    backspace: 5,
    bold: 3,
    'cut and paste': 9,
    condition: 3,
    blank: 2,
    'change of a panel': 2,
    'leave and come back': 2,
    undo: 5,
    redo: 3,
  }

  choose(): string {
    const all = Object.entries(Writer.OFTEN)
    let left = this.random() * all.reduce((sum, [, often]) => sum + often, 0)
    return all.find(([, often]) => (left -= often) < 0)?.[0] ?? 'type'
  }

  /** Types a word somewhere in the text. */
  async typeSomewhere(): Promise<void> {
    await this.place()
    await this.acts['type']!()
  }

  async act(name: string): Promise<void> {
    this.did.push(name)
    // Tab outside of clauses leaves the text, as it does on any page, and may open what it came to.
    const inText = await this.page.evaluate(() => document.activeElement?.closest('.page-text') !== null)
    if (!inText) await this.page.keyboard.press('Escape')
    const placed = !['undo', 'redo', 'leave and come back', 'type'].includes(name) || this.random() < 0.3
    if (placed || !inText) await this.place()
    await this.acts[name]!()
  }

  /** Waits until all that was written is kept. */
  async settle(): Promise<void> {
    await this.page.keyboard.press('Control+s')
    await this.page.waitForFunction(
      () =>
        [...document.querySelectorAll('[role=status]')].some((each) => each.textContent?.startsWith('Saved')),
      null,
      { timeout: 8000 },
    )
    await pause(60)
  }
}

/** Acts that move words without changing them: no passage may lose by them what happens to it. */
export const MOVES: readonly string[] = ['cut and paste', 'tab', 'shift tab', 'toggle']
