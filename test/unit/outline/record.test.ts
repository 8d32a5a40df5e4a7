import { expect } from 'chai'
import { completeRecord, prepareOutline } from '#core/outline/record.ts'
import type { Field } from '#core/outline/field.ts'

const money = (name: string, computed?: string): Field => ({
  name,
  label: name,
  type: 'money',
  required: !computed,
  currency: 'USD',
  computed,
})

describe('computed values', () => {
  it('are worked out in the order they need each other, whatever order they stand in', () => {
    const prepared = prepareOutline([
      money('deposit', 'total * 0.25'),
      money('total', 'price * 3'),
      money('price'),
    ])
    expect(prepared.ok && completeRecord(prepared.ready, { price: '10.10' }).data).to.deep.equal({
      price: '10.10',
      total: '30.3',
      deposit: '7.575',
    })
  })

  it('are absent where what they need is missing', () => {
    const prepared = prepareOutline([money('total', 'price * 3'), money('price')])
    expect(prepared.ok && completeRecord(prepared.ready, {}).data).to.deep.equal({})
  })

  it('that need each other in a circle are told', () => {
    const prepared = prepareOutline([money('a', 'b + 1'), money('b', 'a + 1')])
    expect(
      !prepared.ok && prepared.problems.map(({ field, message }) => [field, message.includes('circle')]),
    ).to.deep.include(['a', true])
  })

  it('must give what their field is', () => {
    const prepared = prepareOutline([money('total', '"text"')])
    expect(!prepared.ok && prepared.problems[0]!.message).to.equal('This gives a text; a number is needed.')
  })

  it('cannot be given from outside', () => {
    const prepared = prepareOutline([money('total', 'price * 3'), money('price')])
    expect(
      prepared.ok && completeRecord(prepared.ready, { price: '1', total: '999' }).data['total'],
    ).to.equal('3')
  })
})
