import { expect } from 'chai'
import fc from 'fast-check'
import { circleOfStandIns, decidersOf } from '#core/approvers/authority.ts'
import type { Absence, Directory } from '#core/approvers/directory.ts'
import { type AnyOf, describeAnyOf, readApprovers } from '#core/approvers/mention.ts'
import { larkmere } from '#test/support/rule-tables.ts'

const DAY = '2026-11-26'
const asked = (text: string, directory = larkmere): readonly AnyOf[] => {
  const read = readApprovers(text, directory)
  if (!read.ok) throw new Error(read.problem)
  return read.all
}
const who = (text: string, directory: Directory = larkmere, shapedBy: readonly string[] = []) =>
  decidersOf({ who: asked(text).flat(), shapedBy }, directory, DAY).map(({ id, standsInFor }) =>
    standsInFor ? `${id} for ${standsInFor}` : id,
  )

const away = (
  absences: Readonly<Record<string, string | null>>,
  more: Partial<Directory['people'][number]> = {},
): Directory => ({
  ...larkmere,
  people: larkmere.people.map((each) =>
    each.id in absences
      ? {
          ...each,
          ...more,
          absences: [{ from: DAY, to: DAY, standIn: absences[each.id]! }] satisfies Absence[],
        }
      : each,
  ),
})

describe('who approves, as a rule says it', () => {
  it('reads posts, people and teams; commas for all of them, or for one', () => {
    expect(asked('legal, Ruth Ambler or finance').map(describeAnyOf)).to.deep.equal([
      'legal',
      'Ruth Ambler or finance',
    ])
    expect(asked('team Sales').map(describeAnyOf)).to.deep.equal(['team Sales'])
    expect(asked('everyone in Contract desk').map(describeAnyOf)).to.deep.equal([
      'Ines Hallow',
      'Maren Oakes',
    ])
    expect(asked('nobody')).to.deep.equal([])
  })

  it('tells a name that nobody has, with the nearest', () => {
    expect(readApprovers('operation director', larkmere)).to.deep.include({
      ok: false,
      nearest: 'operations director',
    })
    expect(readApprovers('legal, ', larkmere)).to.deep.include({
      ok: false,
      problem: 'A name is missing here.',
    })
  })
})

describe('who may decide', () => {
  it('holders of the post, members of the team, whoever leads the owner’s team', () => {
    expect(who('sales')).to.deep.equal(['petra', 'jonah'])
    expect(who('Contract desk')).to.deep.equal(['ines', 'maren'])
    const lead = decidersOf({ who: [{ kind: 'lead', of: 'petra' }], shapedBy: [] }, larkmere, DAY)
    expect(lead.map(({ id }) => id)).to.deep.equal(['ruth'])
  })

  it('the stand-in of one who is away, further down where they are away too, and nobody in a circle', () => {
    expect(who('finance', away({ gideon: 'maren' }))).to.deep.equal(['maren for Gideon Farrow'])
    expect(who('finance', away({ gideon: 'maren', maren: 'silas' }))).to.deep.equal([
      'silas for Gideon Farrow',
    ])
    expect(who('finance', away({ gideon: 'maren', maren: 'gideon' }))).to.deep.equal([])
    expect(who('finance', away({ gideon: null }))).to.deep.equal([])
  })

  it('nobody their own: not by post, not in a team, not as a stand-in, and nobody in their stead', () => {
    expect(who('finance', larkmere, ['gideon'])).to.deep.equal([])
    expect(who('Contract desk', larkmere, ['maren'])).to.deep.equal(['ines'])
    expect(who('finance', away({ gideon: 'maren' }), ['maren'])).to.deep.equal([])
    expect(who('finance', away({ gideon: 'maren' }), ['gideon'])).to.deep.equal([])
  })

  it('whoever holds the post of a person who left; a hole where nobody does', () => {
    const left = {
      ...larkmere,
      people: [
        ...larkmere.people.map((each) => (each.id === 'silas' ? { ...each, left: true } : each)),
        { ...larkmere.people[6]!, id: 'odile', name: 'Odile Marsh' },
      ],
    }
    const silas = asked('Silas Brandt')[0]!
    expect(decidersOf({ who: silas, shapedBy: [] }, left, DAY).map(({ id }) => id)).to.deep.equal(['odile'])
    const empty = { ...left, people: left.people.filter(({ id }) => id !== 'odile') }
    expect(decidersOf({ who: silas, shapedBy: [] }, empty, DAY)).to.deep.equal([])
  })

  it('whoever a step was handed to besides, unless it is their own', () => {
    const step = { who: asked('finance')[0]!, handedTo: 'silas' }
    expect(decidersOf({ ...step, shapedBy: [] }, larkmere, DAY).map(({ id }) => id)).to.deep.equal([
      'gideon',
      'silas',
    ])
    expect(decidersOf({ ...step, shapedBy: ['silas'] }, larkmere, DAY).map(({ id }) => id)).to.deep.equal([
      'gideon',
    ])
  })

  it('a circle of stand-ins is seen when it is made, in whatever order, and only on days that meet', () => {
    const directory = away({ gideon: 'maren', maren: 'silas' })
    const closing = { from: DAY, to: DAY, standIn: 'gideon' }
    expect(circleOfStandIns('silas', closing, directory)).to.deep.equal([
      'Gideon Farrow',
      'Maren Oakes',
      'Silas Brandt',
    ])
    expect(
      circleOfStandIns('silas', { ...closing, from: '2026-11-27', to: '2026-12-01' }, directory),
    ).to.equal(null)
  })

  it('never anybody who shaped it, is away, has left or may not approve, whatever the absences are', () => {
    const ids = larkmere.people.map(({ id }) => id)
    fc.assert(
      fc.property(
        fc.record({
          absences: fc.array(fc.tuple(fc.constantFrom(...ids), fc.option(fc.constantFrom(...ids))), {
            maxLength: 7,
          }),
          left: fc.subarray(ids, { maxLength: 3 }),
          mute: fc.subarray(ids, { maxLength: 3 }),
          shapedBy: fc.subarray(ids, { maxLength: 3 }),
          text: fc.constantFrom('finance', 'sales', 'team Sales', 'legal or finance', 'Maren Oakes'),
        }),
        ({ absences, left, mute, shapedBy, text }) => {
          const directory: Directory = {
            ...larkmere,
            people: larkmere.people.map((each) => ({
              ...each,
              left: left.includes(each.id),
              approves: !mute.includes(each.id),
              absences: absences
                .filter(([id]) => id === each.id)
                .map(([, standIn]) => ({ from: DAY, to: DAY, standIn })),
            })),
          }
          const deciders = decidersOf({ who: asked(text)[0]!, shapedBy }, directory, DAY)
          expect(new Set(deciders.map(({ id }) => id)).size).to.equal(deciders.length)
          for (const { id } of deciders) {
            expect(shapedBy).not.to.include(id)
            expect(left).not.to.include(id)
            expect(mute).not.to.include(id)
            expect(absences.map(([person]) => person)).not.to.include(id)
          }
        },
      ),
    )
  })
})
