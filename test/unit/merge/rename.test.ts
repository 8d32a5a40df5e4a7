import { expect } from 'chai'
import fc from 'fast-check'
import { renameField, renameInExpression } from '#core/merge/rename.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { templateFaults } from '#core/merge/faults.ts'
import { merge } from '#core/merge/merge.ts'
import { finishedText } from '#core/merge/text.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import { suppliedFields } from '#core/merge/fields.ts'
import type { RecordData } from '#core/outline/field.ts'
import { colonySale } from '#demo/colony-sale.ts'
import { priceSchedule } from '#demo/season-packet.ts'
import { siteAccess } from '#test/support/site-access.ts'
import { seasonAgreement } from '#demo/season-agreement.ts'

const templates: readonly TemplateContent[] = [seasonAgreement, colonySale, priceSchedule, siteAccess]

/** Every name that can be changed: fields, lists, and fields of lists. */
const namesOf = ({ outline }: TemplateContent): readonly string[] =>
  outline.flatMap(({ name, items }) => [name, ...(items ?? []).map((item) => `${name}.${item.name}`)])

/** As it is stored: keys without a value are not there. */
const stored = (content: TemplateContent) => JSON.parse(JSON.stringify(content)) as unknown

/** A name that stands nowhere yet; that of a list's field stays in its list. */
const fresh = ({ outline }: TemplateContent, name: string): string => {
  const list = outline.find((field) => field.type === 'list' && name.startsWith(`${field.name}.`))
  const isList = outline.some((field) => field.name === name && field.type === 'list')
  return list ? `${list.name}.renamed_part` : isList ? 'renamed_list' : 'renamed.whole'
}

describe('renaming in an expression', () => {
  const cases: readonly (readonly [
    text: string,
    from: string,
    to: string,
    renamed: string,
    places: number,
  ])[] = [
    ['colonies > 300', 'colonies', 'hives', 'hives > 300', 1],
    ['colonies * price + colonies', 'colonies', 'hives', 'hives * price + hives', 2],
    // A path goes with what it begins with.
    ['grower.name = "x"', 'grower', 'customer', 'customer.name = "x"', 1],
    ['grower.name = "x"', 'grower.name', 'grower.full_name', 'grower.full_name = "x"', 1],
    // Not a name: inside a text, or only the beginning of another name.
    ['colonies_total > 1', 'colonies', 'hives', 'colonies_total > 1', 0],
    ['note = "colonies"', 'colonies', 'hives', 'note = "colonies"', 0],
    [
      'some lot in lots satisfies lot.price > 3',
      'lots',
      'goods',
      'some lot in goods satisfies lot.price > 3',
      1,
    ],
    ['if organic then colonies else 0', 'colonies', 'hives', 'if organic then hives else 0', 1],
    ['sum(colonies, 1)', 'sum', 'total', 'sum(colonies, 1)', 0],
  ]
  for (const [text, from, to, renamed, places] of cases)
    it(`${from} → ${to} in ${text}`, () => {
      expect(renameInExpression(text, from, to)).to.deep.equal({ text: renamed, places })
    })

  it('leaves one that is faulty as it was typed', () => {
    expect(renameInExpression('colonies > ', 'colonies', 'hives')).to.deep.equal({
      text: 'colonies > ',
      places: 0,
    })
  })
})

describe('renaming a field', () => {
  it('leaves no template with a fault, whichever of its names is changed', () => {
    for (const content of templates)
      for (const name of namesOf(content)) {
        const { content: renamed } = renameField(content, name, fresh(content, name))
        expect(
          templateFaults(renamed).map(({ message }) => message),
          `${content.title}: ${name}`,
        ).to.deep.equal([])
      }
  })

  it('there and back gives the same template, and counts the same places both ways', () => {
    for (const content of templates)
      for (const name of namesOf(content)) {
        const to = fresh(content, name)
        const there = renameField(content, name, to)
        const back = renameField(there.content, to, name)
        expect(stored(back.content), `${content.title}: ${name}`).to.deep.equal(stored(content))
        expect(back.places).to.equal(there.places)
      }
  })

  it('changes no word of what is merged', () => {
    const words = (content: TemplateContent, data: RecordData) => {
      const prepared = prepareTemplate(content)
      if (!prepared.ok) throw new Error(prepared.problems[0]!.message)
      return [...finishedText(merge(prepared.ready, data, 'LP-1').document)]
    }
    const data: RecordData = Object.fromEntries(
      suppliedFields(seasonAgreement).flatMap(({ name, example }) => (example ? [[name, example]] : [])),
    )
    const before = words(seasonAgreement, data)
    fc.assert(
      fc.property(fc.constantFrom(...Object.keys(data)), (name) => {
        const to = fresh(seasonAgreement, name)
        const { [name]: value, ...others } = data
        const { content } = renameField(seasonAgreement, name, to)
        expect(words(content, { ...others, [to]: value! })).to.deep.equal(before)
      }),
      { numRuns: 20 },
    )
  })

  it('counts every place, that of the outline not', () => {
    const { places } = renameField(colonySale, 'lots.price', 'lots.rate')
    expect(places).to.be.above(1)
    const nowhere = renameField(colonySale, 'nowhere', 'elsewhere')
    expect([stored(nowhere.content), nowhere.places]).to.deep.equal([stored(colonySale), 0])
  })
})
