import { expect } from 'chai'
import fc from 'fast-check'
import { emptyTemplate } from '#core/document/empty.ts'
import type { TemplateContent } from '#core/document/template.ts'
import type { DocumentTree } from '#core/document/tree.ts'
import {
  type Clock,
  type DraftServer,
  FOLLOW_PAUSE,
  RETRY_PAUSE,
  SAVE_PAUSE,
  type Saved,
  TOGETHER,
} from '#web/drafts/draft-store.ts'
import { TemplateDraft } from '#web/areas/templates/draft/template-draft.ts'
import { writtenIn } from '#test/support/bodies.ts'

/** A clock that goes on only when it is told to. */
class HandClock implements Clock {
  private time = 0
  private waiting: { readonly at: number; readonly call: () => void }[] = []

  now = () => this.time

  after(delay: number, call: () => void) {
    const entry = { at: this.time + delay, call }
    this.waiting.push(entry)
    return () => void (this.waiting = this.waiting.filter((each) => each !== entry))
  }

  /** Lets time pass, and whatever was waiting for it come to its end. */
  async pass(milliseconds: number): Promise<void> {
    const end = this.time + milliseconds
    for (;;) {
      const next = this.waiting.filter(({ at }) => at <= end).sort((a, b) => a.at - b.at)[0]
      if (!next) break
      this.waiting = this.waiting.filter((each) => each !== next)
      this.time = next.at
      next.call()
      await settled()
    }
    this.time = end
    await settled()
  }
}

const settled = () => new Promise((resolve) => setImmediate(resolve))

/** A server with one draft, that can be away, refuse, or have been changed by somebody else. */
class MadeUpServer implements DraftServer<TemplateContent> {
  version = 1
  content: TemplateContent
  mood: 'well' | 'away' | 'refusing' = 'well'
  saves = 0
  attempts = 0

  constructor(content: TemplateContent) {
    this.content = content
  }

  async save(content: TemplateContent, version: number): Promise<Saved<TemplateContent>> {
    this.attempts++
    await settled()
    if (this.mood === 'away') return { ok: false, kind: 'unreached', text: 'The server cannot be reached.' }
    if (this.mood === 'refusing') return { ok: false, kind: 'refused', text: 'Not so.' }
    if (version !== this.version)
      return {
        ok: false,
        kind: 'overtaken',
        text: 'Somebody saved since.',
        theirs: {
          content: this.content,
          version: this.version,
          at: '2027-01-01T00:00:00Z',
          by: 'Maren Oakes',
        },
      }
    this.saves++
    this.content = content
    return { ok: true, version: ++this.version, at: '2027-01-01T00:00:00Z' }
  }

  /** Somebody else saves. */
  other(title: string) {
    this.content = { ...this.content, title }
    this.version++
  }
}

const first = emptyTemplate('Note to growers')

function opened() {
  const clock = new HandClock()
  const server = new MadeUpServer(first)
  const draft = new TemplateDraft({ content: first, version: 1, at: '2027-01-01T00:00:00Z' }, server, clock)
  return { clock, server, draft }
}

const entitled = (title: string) => (before: TemplateContent) => ({ ...before, title })
const documentOf = (words: string): DocumentTree => ({
  type: 'doc',
  content: [
    { type: 'paragraph', attrs: { id: 'p', condition: null }, content: [{ type: 'text', text: words }] },
  ],
})

describe('the store of a draft', () => {
  it('saves by itself after a pause, once for what comes in quick succession', async () => {
    const { clock, server, draft } = opened()
    for (const title of ['One', 'Two', 'Three']) {
      draft.change(entitled(title))
      await clock.pass(SAVE_PAUSE / 2)
    }
    expect(server.saves).to.equal(0)
    expect(draft.state().save.kind).to.equal('unsaved')
    await clock.pass(SAVE_PAUSE)
    expect(server.saves).to.equal(1)
    expect(server.content.title).to.equal('Three')
    expect(draft.state().save.kind).to.equal('saved')
    expect(draft.unsaved).to.equal(false)
  })

  it('shows what is written only after the next key could have come, and says at once that it is unsaved', async () => {
    const { clock, draft } = opened()
    draft.write(documentOf('Dear'))
    expect(draft.state().content).to.equal(first)
    expect(draft.state().save.kind).to.equal('unsaved')
    expect(draft.state().steps.undo).to.equal(1)
    await clock.pass(FOLLOW_PAUSE)
    expect(draft.state().content.document).to.deep.equal(documentOf('Dear'))
  })

  it('gives the page every document but those it wrote', () => {
    const { draft } = opened()
    const shown: DocumentTree[] = []
    draft.onDocument((document) => shown.push(document))
    draft.write(documentOf('Dear'))
    draft.change(entitled('Another title'))
    expect(shown).to.deep.equal([])
    draft.undo()
    expect(shown).to.deep.equal([])
    draft.undo()
    expect(shown).to.deep.equal([first.document])
    draft.redo()
    expect(shown.at(-1)).to.deep.equal(documentOf('Dear'))
  })

  it('undoes together what was written without a pause, and panels step by step', async () => {
    const { clock, draft } = opened()
    draft.write(documentOf('D'))
    draft.write(documentOf('De'))
    await clock.pass(TOGETHER + 1)
    draft.write(documentOf('Dear'))
    draft.change(entitled('One'))
    draft.change(entitled('Two'))
    expect(draft.state().steps).to.deep.equal({ undo: 4, redo: 0 })
    draft.undo()
    expect(draft.content.title).to.equal('One')
    draft.undo()
    draft.undo()
    expect(draft.content.document).to.deep.equal(documentOf('De'))
    draft.undo()
    expect(draft.content).to.equal(first)
    expect(draft.state().steps).to.deep.equal({ undo: 0, redo: 4 })
  })

  it('tries again where the server is away, and loses nothing meanwhile', async () => {
    const { clock, server, draft } = opened()
    server.mood = 'away'
    draft.change(entitled('One'))
    await clock.pass(SAVE_PAUSE)
    expect(draft.state().save).to.deep.equal({
      kind: 'fault',
      text: 'The server cannot be reached.',
      lasting: false,
    })
    server.mood = 'well'
    await clock.pass(RETRY_PAUSE)
    expect(server.content.title).to.equal('One')
    expect(draft.state().save.kind).to.equal('saved')
  })

  it('does not try again what was refused until something changes', async () => {
    const { clock, server, draft } = opened()
    server.mood = 'refusing'
    draft.change(entitled('One'))
    await clock.pass(SAVE_PAUSE)
    server.mood = 'well'
    await clock.pass(RETRY_PAUSE * 3)
    expect(draft.state().save).to.include({ kind: 'fault', lasting: true })
    draft.change(entitled('Two'))
    await clock.pass(SAVE_PAUSE)
    expect(server.content.title).to.equal('Two')
  })

  it('writes over nobody: theirs and one’s own both stand until one is chosen', async () => {
    for (const keep of ['mine', 'theirs'] as const) {
      const { clock, server, draft } = opened()
      draft.change(entitled('Mine'))
      server.other('Theirs')
      await clock.pass(SAVE_PAUSE)
      expect(draft.state().theirs).to.include({ by: 'Maren Oakes', version: 2 })
      expect(server.content.title).to.equal('Theirs')
      draft.change(entitled('Mine, later'))
      await clock.pass(RETRY_PAUSE)
      expect(server.content.title).to.equal('Theirs')
      draft.settleConflict(keep)
      await clock.pass(SAVE_PAUSE)
      const title = keep === 'mine' ? 'Mine, later' : 'Theirs'
      expect(server.content.title).to.equal(title)
      expect(draft.content.title).to.equal(title)
      if (keep === 'theirs') {
        draft.undo()
        expect(draft.content.title).to.equal('Mine, later')
      }
    }
  })

  it('sends nothing while two versions stand, whoever asks for it', async () => {
    const { clock, server, draft } = opened()
    draft.change(entitled('Mine'))
    server.other('Theirs')
    await clock.pass(SAVE_PAUSE)
    const { attempts } = server
    draft.change(entitled('Mine, later'))
    expect(await draft.settle()).to.equal(null)
    await clock.pass(RETRY_PAUSE + SAVE_PAUSE)
    expect(server.attempts).to.equal(attempts)
    expect(draft.content.title).to.equal('Mine, later')
  })

  it('takes in what somebody else saved where nothing of its own is unsaved', async () => {
    const { clock, server, draft } = opened()
    server.other('Theirs')
    const kept = () => ({ content: server.content, version: server.version, at: '2027-01-01T00:00:00Z' })
    draft.seen(kept())
    expect(draft.content.title).to.equal('Theirs')
    expect(draft.state().steps.undo).to.equal(0)
    draft.change(entitled('Mine'))
    server.other('Theirs again')
    draft.seen(kept())
    expect(draft.content.title).to.equal('Mine')
    await clock.pass(SAVE_PAUSE)
    expect(draft.state().theirs?.content.title).to.equal('Theirs again')
  })

  it('takes an old answer of the server for what it is', async () => {
    const { clock, draft } = opened()
    draft.change(entitled('Mine'))
    await clock.pass(SAVE_PAUSE)
    draft.seen({ content: first, version: 1, at: '2027-01-01T00:00:00Z' })
    expect(draft.content.title).to.equal('Mine')
  })

  it('settles: saves at once and tells the version', async () => {
    const { server, draft } = opened()
    expect(await draft.settle()).to.equal(1)
    draft.change(entitled('One'))
    expect(await draft.settle()).to.equal(2)
    expect(server.content.title).to.equal('One')
    server.mood = 'away'
    draft.change(entitled('Two'))
    expect(await draft.settle()).to.equal(null)
  })

  it('holds its laws whatever comes in whatever order', async () => {
    const act = fc.oneof(
      fc.record({ kind: fc.constant('change' as const), title: fc.stringMatching(/^[a-z]{1,4}$/) }),
      fc.record({ kind: fc.constant('write' as const), title: fc.stringMatching(/^[a-z]{1,4}$/) }),
      fc.constantFrom(
        { kind: 'undo' as const },
        { kind: 'redo' as const },
        { kind: 'other' as const },
        { kind: 'away' as const },
        { kind: 'back' as const },
        { kind: 'mine' as const },
        { kind: 'theirs' as const },
        { kind: 'settle' as const },
      ),
      fc.record({ kind: fc.constant('wait' as const), time: fc.integer({ min: 1, max: 1500 }) }),
    )
    await fc.assert(
      fc.asyncProperty(fc.array(act, { maxLength: 40 }), async (acts) => {
        const { clock, server, draft } = opened()
        let page: DocumentTree = writtenIn(first.document)
        draft.onDocument((document) => (page = document))
        let others = 0
        for (const each of acts) {
          if (each.kind === 'change') draft.change(entitled(each.title))
          else if (each.kind === 'write') draft.write((page = documentOf(each.title)))
          else if (each.kind === 'undo') draft.undo()
          else if (each.kind === 'redo') draft.redo()
          else if (each.kind === 'other') server.other(`other ${++others}`)
          else if (each.kind === 'away') server.mood = 'away'
          else if (each.kind === 'back') server.mood = 'well'
          else if (each.kind === 'wait') await clock.pass(each.time)
          else if (each.kind === 'settle') await draft.settle()
          else draft.settleConflict(each.kind)
          // The page shows what the draft says, always.
          expect(page).to.deep.equal(draft.content.document)
        }
        server.mood = 'well'
        await clock.pass(RETRY_PAUSE + SAVE_PAUSE)
        if (draft.state().theirs) draft.settleConflict('mine')
        await clock.pass(RETRY_PAUSE + SAVE_PAUSE)
        expect(draft.state().content).to.equal(draft.content)
        expect(draft.unsaved).to.equal(false)
        draft.seen({ content: server.content, version: server.version, at: '2027-01-01T00:00:00Z' })
        expect(page).to.deep.equal(draft.content.document)
        if (server.version > 1) expect(server.content).to.deep.equal(draft.content)
        while (draft.state().steps.undo > 0) draft.undo()
        expect(draft.content.document).to.deep.equal(first.document)
        expect(page).to.deep.equal(first.document)
      }),
      { numRuns: 300, seed: 41 },
    )
  })
})
