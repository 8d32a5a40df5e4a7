import { expect } from 'chai'
import { speaks } from '#core/languages/all.ts'
import fc from 'fast-check'
import { valueProblem } from '#core/agreement/blank-value.ts'
import { blanksOf, type PlacedBlank, unfinished } from '#core/agreement/signing.ts'
import type { Filled } from '#core/agreement/filled.ts'
import type { BlankKind } from '#core/document/tree.ts'
import type { BlankRules } from '#core/merge/finished.ts'

const blank = (id: string, kind: BlankKind, rules: BlankRules = {}, y = 100): PlacedBlank => ({
  id,
  kind,
  role: 'buyer',
  label: id,
  required: true,
  page: 1,
  x: 72,
  y,
  width: 80,
  height: 13,
  rules,
})
const typed = (text: string): Filled => ({ kind: 'text', text })

const en = speaks('en')
const { say } = en

describe('what is typed into a blank', () => {
  const counted = blank('Colonies counted', 'number', {
    check: 'value >= 0 and value <= 1000',
    message: 'A number of colonies from 0 to 1000.',
  })

  it('is a figure where a number is asked for, with or without signs between thousands', () => {
    for (const text of ['0', '64', '1000', '1,000', '1 000', '12.5'])
      expect(valueProblem(counted, typed(text), en), text).to.equal(null)
    for (const text of ['1,00', 'a few', '1e3', '--1', '1.2.3'])
      expect(valueProblem(blank('n', 'number'), typed(text), en), text).to.equal(`“${text}” is not a number.`)
  })

  it('is held to its rule, and told in the rule’s words', () => {
    expect(valueProblem(counted, typed('1001'), en)).to.equal('A number of colonies from 0 to 1000.')
    expect(valueProblem(counted, typed('many'), en)).to.equal('A number of colonies from 0 to 1000.')
  })

  it('is text to a rule over text', () => {
    const plate = blank('Plate', 'text', { check: 'matches(value, "^[A-Z]{3} [0-9]{3}$")' })
    expect(valueProblem(plate, typed('HIV 204'), en)).to.equal(null)
    expect(valueProblem(plate, typed('204'), en)).to.equal('“204” does not fit here.')
  })

  it('passes no rule that is faulty or undecided', () => {
    for (const check of ['value >', 'nothing > 1'])
      expect(valueProblem(blank('n', 'number', { check }), typed('1'), en)).to.equal('“1” does not fit here.')
  })
})

describe('options of a choice', () => {
  const carried = blank('Carried in', 'choice', { options: ['own truck', 'hired truck', 'by ship'], most: 2 })

  it('are those offered, and not more than may be', () => {
    expect(valueProblem(carried, { kind: 'choice', chosen: [0, 2] }, en)).to.equal(null)
    expect(valueProblem(carried, { kind: 'choice', chosen: [0, 0, 2] }, en), 'one twice').to.equal(null)
    expect(valueProblem(carried, { kind: 'choice', chosen: [3] }, en)).to.equal(
      '“Carried in” has no such option.',
    )
    expect(valueProblem(carried, { kind: 'choice', chosen: [0, 1, 2] }, en)).to.equal(
      '“Carried in”: choose at most 2 options.',
    )
  })
})

describe('signing', () => {
  const seen = (id: string) => blank(id, 'tick', { group: { name: 'What was seen', least: 1, most: 2 } })
  const group = [seen('queens'), seen('brood'), seen('stores')]
  const ticks = (ids: readonly string[]) => new Map(ids.map((id) => [id, { kind: 'tick' } as const]))

  it('waits for as many ticks of a group as it asks for, and for no more', () => {
    fc.assert(
      fc.property(fc.subarray(['queens', 'brood', 'stores']), (ticked) => {
        const told = unfinished(group, ticks(ticked), say).map(({ message }) => message)
        expect(told).to.deep.equal(
          ticked.length === 0
            ? ['What was seen: tick at least 1.']
            : ticked.length === 3
              ? ['What was seen: tick at most 2.']
              : [],
        )
      }),
    )
  })

  it('points at the first of the group', () => {
    expect(unfinished(group, ticks([]), say)[0]!.blank.id).to.equal('queens')
  })

  it('waits for a choice that has too few options, not for one that is empty', () => {
    const two = [blank('Days', 'choice', { options: ['Mon', 'Tue', 'Wed'], least: 2, most: 3 })]
    const chosen = (...at: number[]) => new Map([['Days', { kind: 'choice', chosen: at } as const]])
    expect(unfinished(two, chosen(0), say)[0]!.message).to.equal('“Days”: choose at least 2 options.')
    expect(unfinished(two, chosen(0, 2), say)).to.deep.equal([])
    expect(unfinished(two, new Map(), say)).to.deep.equal([])
  })

  it('goes through a role’s blanks as a reader meets them', () => {
    const all = [blank('low', 'text', {}, 300), blank('high', 'text', {}, 50)]
    const other = { ...blank('theirs', 'text', {}, 10), role: 'seller' }
    expect(blanksOf([...all, other], 'buyer').map(({ id }) => id)).to.deep.equal(['high', 'low'])
  })
})
