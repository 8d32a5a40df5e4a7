import { expect } from 'chai'
import { forgetHere, unsavedHere } from '#web/frame/kept-here.ts'
import { ProblemError } from '#web/api/problem.ts'
import { draftServer } from '#web/drafts/draft-server.ts'
import { DraftStore, type Kept, SAVE_PAUSE } from '#web/drafts/draft-store.ts'
import { OpenDrafts } from '#web/drafts/open-drafts.ts'

const AT = '2027-01-01T00:00:00Z'
const kept = (content: string, version = 1): Kept<string> => ({ content, version, at: AT })
const problem = (status: number) =>
  new ProblemError({ type: 'about:blank', title: '', status, detail: `refused ${status}` })

describe('a draft that is saved by hand', () => {
  it('is unsaved until it is said what was saved; undone to that, it is saved again', () => {
    const draft = new DraftStore(kept('a'), null)
    draft.set('b')
    expect(draft.unsaved).to.equal(true)
    draft.savedAs('b', 2, AT)
    expect([draft.unsaved, draft.version, draft.state().save.kind]).to.deep.equal([false, 2, 'saved'])
    draft.set('c')
    expect(draft.state().save.kind).to.equal('unsaved')
    draft.undo()
    expect([draft.unsaved, draft.state().save.kind]).to.deep.equal([false, 'saved'])
    draft.undo()
    expect([draft.content, draft.unsaved]).to.deep.equal(['a', true])
  })

  it('keeps unsaved what was changed while it was being saved', () => {
    const draft = new DraftStore(kept('a'), null)
    draft.set('b')
    draft.set('c')
    draft.savedAs('b', 2, AT)
    expect([draft.content, draft.unsaved]).to.deep.equal(['c', true])
  })
})

describe('a draft that saves itself', () => {
  it('sends nothing if what was changed was undone before the pause was over', async () => {
    let calls = 0
    const due: (() => void)[] = []
    const clock = {
      now: () => 0,
      after(delay: number, call: () => void) {
        expect(delay).to.equal(SAVE_PAUSE)
        due.push(call)
        return () => void due.splice(due.indexOf(call), 1)
      },
    }
    const server = { save: () => Promise.resolve({ ok: true as const, version: ++calls, at: AT }) }
    const draft = new DraftStore(kept('a'), server, clock)
    draft.set('b')
    expect(due).to.have.length(1)
    draft.undo()
    expect(due).to.have.length(0)
    expect(await draft.settle()).to.equal(1)
    expect(calls).to.equal(0)
  })
})

describe('the server of a draft', () => {
  const refusing = (status: number, read: () => Promise<Kept<string> & { by: string }>) =>
    draftServer<string>({ save: () => Promise.reject(problem(status)), read })
  const theirs = { ...kept('theirs', 7), by: 'Maren Oakes' }

  it('tells a lost connection, a refusal, and what a colleague saved, apart', async () => {
    const read = () => Promise.resolve(theirs)
    expect(await refusing(0, read).save('a', 1)).to.include({ ok: false, kind: 'unreached' })
    expect(await refusing(422, read).save('a', 1)).to.include({ kind: 'refused', text: 'refused 422' })
    expect(await refusing(409, read).save('a', 1)).to.deep.include({ kind: 'overtaken', theirs })
  })

  it('says that a colleague saved even if what they saved cannot be read', async () => {
    const saved = await refusing(409, () => Promise.reject(problem(0))).save('a', 1)
    expect(saved).to.deep.include({ kind: 'overtaken', theirs: null })
  })
})

describe('the drafts that are open in a window', () => {
  const make = (content: string) => () => new DraftStore(kept(content), null)

  it('are found as they were left, and take in what is newer only if nothing is unsaved', () => {
    const open = new OpenDrafts<string>({ saves: false })
    const draft = open.of('1', kept('a'), make('a'))
    draft.set('mine')
    expect(open.of('1', kept('theirs', 2), make('theirs')).content).to.equal('mine')
    draft.undo()
    expect(open.of('1', kept('theirs', 2), make('theirs'))).to.equal(draft)
    expect(draft.content).to.equal('theirs')
    forgetHere()
  })

  it('are kept for the last twelve, and for all that have something unsaved', () => {
    const open = new OpenDrafts<string>({ saves: false })
    const unsaved = open.of('unsaved', kept('a'), make('a'))
    unsaved.set('b')
    const first = open.of('0', kept('a'), make('a'))
    for (let i = 1; i <= 12; i++) open.of(String(i), kept('a'), make('a'))
    expect(open.of('unsaved', kept('a'), make('a'))).to.equal(unsaved)
    expect(open.of('0', kept('a'), make('a'))).to.not.equal(first)
    expect(unsavedHere()).to.equal(true)
    forgetHere()
    expect(unsavedHere()).to.equal(false)
    expect(open.of('unsaved', kept('a'), make('a')).content).to.equal('a')
  })
})
