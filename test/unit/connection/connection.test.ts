import { expect } from 'chai'
import fc from 'fast-check'
import { driftOf, kindInSample, kindsInDescription, suggestedFor } from '#core/connection/found.ts'
import { reconcile } from '#core/connection/reconcile.ts'
import { readPage } from '#core/connection/read.ts'
import type { TheirKind } from '#core/connection/kinds.ts'
import type { Json } from '#core/mapping/nested.ts'
import type { RecordData } from '#core/outline/field.ts'
import { fieldsOfKind } from '#core/records/kinds.ts'

const description = {
  openapi: '3.1.0',
  paths: {
    '/growers': {
      get: {
        parameters: [{ $ref: '#/components/parameters/Cursor' }, { name: 'changed_since', in: 'query' }],
        responses: {
          '200': { content: { 'application/json': { schema: { $ref: '#/components/schemas/Growers' } } } },
        },
      },
    },
    '/growers/{id}': { get: {} },
    '/growers/{id}/files': { post: {} },
    '/health': {
      get: { responses: { '200': { content: { 'application/json': { schema: { type: 'object' } } } } } },
    },
  },
  components: {
    parameters: { Cursor: { name: 'cursor', in: 'query' } },
    schemas: {
      Growers: {
        type: 'object',
        properties: {
          data: { type: 'array', items: { $ref: '#/components/schemas/Grower' } },
          next: { type: 'string' },
        },
      },
      Grower: {
        type: 'object',
        properties: {
          id: { type: 'integer' },
          name: { type: 'string' },
          mail: { type: 'object', properties: { address: { type: 'string' }, email: { type: 'string' } } },
          agreement_status: { type: 'string' },
          parent: { $ref: '#/components/schemas/Grower' },
          lines: {
            type: 'array',
            items: {
              type: 'object',
              properties: {
                item: { type: 'string' },
                quantity: { type: 'number' },
                price: { type: 'number' },
              },
            },
          },
        },
      },
    },
  },
} as unknown as Json
const customer = fieldsOfKind('customer', [])
const deal = fieldsOfKind('deal', [])

describe('a customer system', () => {
  const [growers] = kindsInDescription(description)

  it('tells its kinds and fields by its description, also where that goes in circles', () => {
    expect(kindsInDescription(description).map(({ name }) => name)).to.deep.equal(['growers'])
    expect(growers).to.deep.include({
      path: '/growers',
      items: 'data',
      id: 'id',
      since: 'changed_since',
      paging: { style: 'cursor', param: 'cursor', next: 'next' },
      push: { status: 'agreement_status', link: null, files: 'files' },
    })
    expect(growers!.fields.map(({ name, type }) => `${name}: ${type}`)).to.include.members([
      'mail.email: text',
      'lines: list',
      'parent.name: text',
    ])
  })

  it('tells them by a sample answer, where it has no description', () => {
    const kind = kindInSample('/growers', {
      growers: [
        {
          id: 'g1',
          since: '2026-01-02',
          address: { city: 'Pell' },
          lines: [{ item: 'Colony', quantity: 2 }],
        },
      ],
    })
    expect(kind).to.deep.include({ items: 'growers', id: 'id' })
    expect(kind!.fields).to.deep.include({ name: 'since', type: 'date' })
    expect(kindInSample('/x', { a: 1 })).to.equal(null)
    expect(kindInSample('/x', 'text')).to.equal(null)
  })

  const mapped: TheirKind = {
    ...growers!,
    into: 'deal',
    mapping: suggestedFor(deal, growers!),
    owner: { field: 'parent.id', kind: 'growers' },
  }

  it('is mapped by the likeness of names, lines too', () => {
    expect(suggestedFor(customer, growers!)).to.include({ name: 'name', email: 'mail.email' })
    expect(mapped.mapping).to.include({ 'lines.item': 'lines[].item', 'lines.quantity': 'lines[].quantity' })
  })

  it('is read with what cannot be read told and left out', () => {
    const page = readPage(mapped, deal, {
      data: [
        { id: 7, name: 'Bloom', parent: { id: 3 }, lines: [{ item: 'Colony', quantity: 12, price: 'dear' }] },
        { id: 8, name: { not: 'a text' } },
      ],
      next: 'abc',
    } as Json)
    if (!page.ok) throw new Error(page.problem)
    expect(page.next).to.equal('abc')
    expect(page.records[0]).to.deep.include({
      id: '7',
      owner: '3',
      data: { name: 'Bloom', lines: [{ item: 'Colony', quantity: '12' }] },
    })
    expect(page.records[0]!.problems[0]!.field).to.equal('lines[1].price')
    expect(page.records[1]!.problems[0]!.field).to.equal('name')
    expect(readPage(mapped, deal, { data: {} }).ok).to.equal(false)
    expect(readPage(mapped, deal, { data: [{ name: 'no id' }] }).ok).to.equal(false)
  })

  it('that changes overnight is told: what is gone, of another type, new', () => {
    const now: TheirKind = {
      ...mapped,
      fields: mapped.fields
        .filter(({ name }) => name !== 'agreement_status')
        .map((field) => (field.name === 'name' ? { ...field, type: 'number' as const } : field))
        .concat([{ name: 'fax', type: 'text' }]),
    }
    expect(driftOf(mapped, now).map(({ what, field }) => `${what} ${field}`)).to.deep.equal([
      'type name',
      'gone agreement_status',
      'new fax',
    ])
    expect(driftOf(mapped, undefined)[0]!.what).to.equal('gone')
    expect(driftOf(mapped, mapped)).to.deep.equal([])
  })

  it('meets a record: only what one side changed is taken, what both changed is a conflict', () => {
    const last = { theirs: { name: 'A', email: 'a@x.example' }, version: 3 }
    const fills = ['name', 'email']
    const ours = { name: 'A', email: 'a@x.example', phone: '1' }
    expect(reconcile(ours, { name: 'A', email: 'a@x.example' }, last, fills)).to.deep.equal({ kind: 'same' })
    expect(reconcile(ours, { name: 'B', email: 'a@x.example' }, last, fills)).to.deep.equal({
      kind: 'take',
      data: { name: 'B', email: 'a@x.example', phone: '1' },
    })
    expect(reconcile({ ...ours, name: 'C' }, { name: 'A', email: 'a@x.example' }, last, fills).kind).to.equal(
      'same',
    )
    expect(reconcile({ ...ours, name: 'C' }, { name: 'B', email: 'a@x.example' }, last, fills)).to.deep.equal(
      {
        kind: 'conflict',
        differences: [{ field: 'name', ours: 'C', theirs: 'B' }],
      },
    )
  })

  it('never loses what we changed and they did not, nor touches what they do not fill', () => {
    const data = fc.dictionary(fc.constantFrom('a', 'b', 'c', 'd'), fc.constantFrom('1', '2', '3'))
    fc.assert(
      fc.property(data, data, data, (ours, theirs, before) => {
        const fills = ['a', 'b', 'c']
        const met = reconcile(ours, theirs, { theirs: before, version: 1 }, fills)
        const end: RecordData = met.kind === 'take' ? met.data : ours
        expect(end['d']).to.equal(ours['d'])
        for (const field of fills) {
          if (theirs[field] === before[field]) expect(end[field]).to.equal(ours[field])
          else if (met.kind !== 'conflict' && ours[field] === before[field])
            expect(end[field]).to.equal(theirs[field])
        }
        // Met again with the same, nothing more happens.
        if (met.kind === 'take')
          expect(reconcile(met.data, theirs, { theirs, version: 2 }, fills).kind).to.equal('same')
      }),
    )
  })
})
