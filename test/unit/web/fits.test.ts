import { expect } from 'chai'
import { fits } from '#web/frame/fits.ts'

describe('how well a line of the command bar fits', () => {
  it('is best where each word begins one of its words, then where it stands in one', () => {
    expect(fits('New agreement Begin', 'agr')).to.equal(1)
    expect(fits('New agreement Begin', 'new agr')).to.equal(1)
    expect(fits('New agreement Begin', 'greement')).to.equal(0.6)
    expect(fits('Absences Rules', 'team', ['away', 'team'])).to.equal(1)
  })
  it('forgives a wrong letter in a word of four and more, and no other word', () => {
    expect(fits('Webhooks Settings', 'webhoks')).to.equal(0.3)
    expect(fits('New agreement Begin', 'new agreemnet')).to.equal(0.3)
    expect(fits('Webhooks Settings', 'wbh')).to.equal(0)
    expect(fits('New agreement Begin', 'new kingsgate')).to.equal(0)
  })
  it('keeps every line where nothing is written', () => {
    expect(fits('Desk Area', '')).to.equal(1)
  })
})
