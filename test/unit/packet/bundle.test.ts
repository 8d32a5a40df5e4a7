import { expect } from 'chai'
import { prepareTemplate } from '#core/merge/prepare.ts'
import { type Bundle, bundleConflicts, bundleFields, fillBundle, mergeBundle } from '#core/packet/bundle.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { tellingRows } from '#core/wording/typical.ts'
import { priceSchedule } from '#demo/season-packet.ts'
import { siteAccess } from '#test/support/site-access.ts'
import { seasonAgreement } from '#demo/season-agreement.ts'
import { examples } from '#server/services/studio/proofs.ts'

const ready = (content: TemplateContent) => {
  const prepared = prepareTemplate(content)
  if (!prepared.ok) throw new Error(prepared.problems[0]!.message)
  return prepared.ready
}
const bundle: Bundle = { parts: [ready(seasonAgreement), ready(priceSchedule), ready(siteAccess)] }
const data = {
  ...examples(seasonAgreement),
  'land.leased': true,
  landowner: 'Amos Pell',
  landowner_email: 'amos.pell@brightwaterland.example',
}

describe('a packet of templates', () => {
  it('asks for each value once, and needs it where any of them does', () => {
    const names = bundleFields(bundle).map(({ name }) => name)
    expect(new Set(names).size).to.equal(names.length)
    expect(names).to.include.members(['season', 'landowner'])
    expect(names).not.to.include('total')
  })

  it('merges one record into all documents, with each signer once', () => {
    const merged = mergeBundle(bundle, data, 'LP-1')
    expect(merged.documents).to.have.length(3)
    expect(merged.people.map(({ role }) => role)).to.deep.equal(['grower', 'keeper', 'landowner'])
    expect(merged.problems).to.deep.equal([])
  })

  it('has a wording that tells the documents apart', () => {
    const { wording } = mergeBundle(bundle, data, null)
    const keys = wording.split(' ')
    expect(keys.some((key) => key.startsWith('1/'))).to.equal(true)
    expect(keys.some((key) => key.startsWith('3/'))).to.equal(true)
    const owned = mergeBundle(bundle, { ...data, 'land.leased': false }, null).wording
    expect(owned).not.to.equal(wording)
    expect(mergeBundle({ parts: [bundle.parts[0]] }, data, null).wording).not.to.contain('/')
  })

  it('is named by its first template', () => {
    expect(fillBundle(bundle, data, '{{grower.name}}, {{number}}', 'LP-1')).to.equal(
      'Brightwater Orchard, LP-1',
    )
  })

  it('cannot be of templates that use one name for different things', () => {
    const odd = ready({
      ...siteAccess,
      outline: siteAccess.outline.map((field) =>
        field.name === 'acres' ? { ...field, type: 'text' as const } : field,
      ),
    })
    expect(bundleConflicts(bundle)).to.deep.equal([])
    expect(bundleConflicts({ parts: [bundle.parts[0], odd] })[0]).to.contain('“Acres” is number in')
  })
})

describe('rows worth reading of a wording', () => {
  it('are the middle one by what is filled in, and the longest', () => {
    const row = (number: number, name: string) => ({ row: number, data: { name } })
    expect(tellingRows([row(3, 'abc'), row(4, 'a'), row(5, 'abcdefgh')])).to.deep.equal({
      typical: 3,
      longest: 5,
    })
    expect(tellingRows([row(3, 'x')])).to.deep.equal({ typical: 3, longest: 3 })
    expect(tellingRows([])).to.equal(null)
  })
})
