import { expect } from 'chai'
import { nested } from '#server/services/next-steps/acts/tell-system.ts'

describe('values that go back to a customer system', () => {
  it('stand under their dotted names, as groups in one another', () => {
    expect(
      JSON.parse(
        JSON.stringify(
          nested([
            ['agreement.status', 'executed'],
            ['agreement.link', 'https://larkmere.example/1'],
            ['note', 'x'],
          ]),
        ),
      ),
    ).to.deep.equal({ agreement: { status: 'executed', link: 'https://larkmere.example/1' }, note: 'x' })
  })

  it('change nothing of what every object has, whatever their names', () => {
    const names = ['__proto__', 'constructor', 'prototype', ...Object.getOwnPropertyNames(Object.prototype)]
    for (const name of names)
      for (const path of [`${name}.get`, `a.${name}.get`, name, `${name}.${name}`]) {
        const text = JSON.stringify(nested([[path, 'x']]))
        expect(text, path).to.contain(JSON.stringify(name))
        expect(({} as Record<string, unknown>)['get'], path).to.equal(undefined)
        expect(Object.getOwnPropertyDescriptor({ a: 1 }, 'a')).to.include({ value: 1 })
      }
  })
})
