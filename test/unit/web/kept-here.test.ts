import { expect } from 'chai'
import {
  askBeforeLeaving,
  belongsTo,
  forgetHere,
  keepHere,
  settleHere,
  unsavedHere,
} from '#web/frame/kept-here.ts'

describe('what a window keeps of its person', () => {
  /** As a draft that saves itself, and as entries that somebody has to save. */
  const draft = { text: '', saved: '' }
  const entries = new Map<string, string>()
  keepHere({
    unsaved: () => draft.text !== draft.saved,
    settle: () => Promise.resolve(void (draft.saved = draft.text)),
    forget: () => void Object.assign(draft, { text: '', saved: '' }),
  })
  keepHere({ unsaved: () => entries.size > 0, forget: () => entries.clear() })
  afterEach(() => forgetHere())

  it('is saved where it saves itself; what is not stays unsaved', async () => {
    draft.text = 'Clause 4'
    expect(unsavedHere()).to.equal(true)
    await settleHere()
    expect(draft.saved).to.equal('Clause 4')
    expect(unsavedHere()).to.equal(false)
    entries.set('Willow Farm', '12')
    await settleHere()
    expect(unsavedHere()).to.equal(true)
  })

  it('is there again for whoever signs in again, and for nobody else', () => {
    belongsTo('ines')
    entries.set('Willow Farm', '12')
    belongsTo('ines')
    expect(entries.size).to.equal(1)
    belongsTo('petra')
    expect(entries.size).to.equal(0)
  })

  it('is not left without a word', () => {
    let leave: (event: { preventDefault: () => void }) => void = () => undefined
    askBeforeLeaving({ addEventListener: ((_: string, act: never) => (leave = act)) as never })
    let asked = 0
    const event = { preventDefault: () => asked++ }
    leave(event)
    expect(asked).to.equal(0)
    entries.set('Willow Farm', '12')
    leave(event)
    expect(asked).to.equal(1)
  })
})
