import { expect } from 'chai'
import fc from 'fast-check'
import { EACH_ROW, itemKey, mappingKey, readItemKey } from '#core/mapping/key.ts'
import type { Field } from '#core/outline/field.ts'

const field = (name: string, more: Partial<Field> = {}): Field => ({
  name,
  label: name,
  type: 'text',
  required: false,
  ...more,
})

describe('the key of a mapping', () => {
  it('of a list’s field is read as it was written, whatever the list and field are called', () => {
    const name = fc.stringMatching(/^[a-z][a-z0-9_]{0,8}$/)
    const list = fc.oneof(
      name,
      fc.tuple(name, name).map((parts) => parts.join('.')),
    )
    const position = fc.oneof(fc.constant(EACH_ROW), fc.integer({ min: 1, max: 999 }))
    fc.assert(
      fc.property(list, position, name, (of, at, called) => {
        const key = { list: of, position: at, name: called }
        expect(readItemKey(itemKey(key))).to.deep.equal(key)
      }),
    )
  })

  it('of a plain field is its name, dots and all', () => {
    for (const key of [
      'price',
      'grower.name',
      'a.b.c',
      '',
      'lines[x].price',
      'lines[1000].price',
      '[1].price',
    ])
      expect(readItemKey(key), key).to.equal(null)
  })

  it('names a field that the outline has and somebody has to give', () => {
    const outline = [
      field('season'),
      field('lines', { type: 'list', items: [field('price'), field('sum', { computed: 'price * 2' })] }),
    ]
    expect(mappingKey(outline, 'season')).to.deep.include({ list: null, position: 0 })
    expect(mappingKey(outline, 'lines[2].price')).to.deep.include({ position: 2 })
    expect(mappingKey(outline, 'lines[].price')).to.deep.include({ position: EACH_ROW })
    for (const none of ['lines', 'lines[1].sum', 'lines[1].colour', 'season[1].price', 'colour'])
      expect(mappingKey(outline, none), none).to.equal(null)
  })
})
