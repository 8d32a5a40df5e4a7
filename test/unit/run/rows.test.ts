import type { FieldType } from '#core/outline/field-kinds.ts'
import { expect } from 'chai'
import { readGroup } from '#core/mapping/apply.ts'
import { recallMapping } from '#core/mapping/remember.ts'
import { suggestMapping } from '#core/mapping/suggest.ts'
import type { Field } from '#core/outline/field.ts'
import { duplicateProblems, keyColumn } from '#core/run/duplicates.ts'
import { groupRows } from '#core/run/group.ts'
import { readAddresses, readLanguage } from '#core/run/row-extras.ts'
import { columnFields, compileRule, ruledOut } from '#core/run/rule.ts'
import type { Cell } from '#core/outline/cell.ts'
import { describeColumn } from '#core/sheet/columns.ts'

const field = (name: string, label: string, type: FieldType, more: Partial<Field> = {}): Field => ({
  name,
  label,
  type,
  required: true,
  ...more,
})
const sheet = (names: readonly string[], ...rows: readonly (readonly Cell[])[]) => ({
  columns: names.map((name, i) =>
    describeColumn(
      name,
      rows.map((row) => row[i] ?? null),
    ),
  ),
  rows: rows.map((cells, i) => ({ row: i + 2, cells })),
})

describe('a row rule', () => {
  const { columns, rows } = sheet(
    ['Orchard', 'Status', 'Acres', 'Status'],
    ['Brightwater', 'agreed', 120, 'x'],
    ['Foxford', 'lost', 40, 'x'],
    ['Elderbank', null, 12, 'x'],
  )
  const rule = (text: string) => {
    const found = compileRule(text, columns)
    if (!found.ok) throw new Error(found.problem)
    return (i: number) => ruledOut(found, columns, rows[i]!.cells)
  }

  it('speaks of the columns by names made of theirs, each its own', () => {
    expect(columnFields(columns).map(({ name }) => name)).to.deep.equal([
      'orchard',
      'status',
      'acres',
      'status_2',
    ])
  })

  it('takes rows for which it is true, and says of others why not in the columns’ words', () => {
    const why = rule('status = "agreed"')
    expect(why(0)).to.equal(null)
    expect(why(1)).to.equal('Left out by the row rule: Status lost is not agreed.')
    expect(rule('acres > 50')(1)).to.equal('Left out by the row rule: Acres 40 is not over 50.')
  })

  it('leaves out what it cannot decide, and says so', () => {
    expect(rule('acres > 50')(2)).to.contain('Left out by the row rule')
    expect(rule('starts with(status, "a")')(2)).to.contain('cannot be decided')
  })

  it('that is faulty is told, not run', () => {
    expect(compileRule('state = "agreed"', columns)).to.include({ ok: false })
    expect(compileRule('acres +', columns)).to.include({ ok: false })
    expect(compileRule('acres', columns)).to.include({ ok: false })
  })
})

describe('rows that are one agreement', () => {
  const { columns, rows } = sheet(
    ['Buyer', 'E-mail', 'Item', 'Quantity'],
    ['Fennel Bottom Farm', 'o@fennel.example', 'Nucleus', 12],
    ['Sedge Harbor', 's@sedge.example', 'Queen', 3],
    [' fennel bottom  farm', null, 'Queen', 4],
    [null, null, 'Frame', 1],
    [null, null, 'Frame', 2],
  )
  const outline = [
    field('buyer', 'Buyer', 'text'),
    field('email', 'E-mail', 'email'),
    field('lots', 'Lots', 'list', {
      items: [field('item', 'Item', 'text'), field('quantity', 'Quantity', 'number')],
    }),
  ]

  it('agree in their columns whatever case and spaces; those with nothing there stay alone', () => {
    const groups = groupRows(columns, ['Buyer'], rows)
    expect(groups.map((group) => group.map(({ row }) => row))).to.deep.equal([[2, 4], [3], [5], [6]])
    expect(groupRows(columns, [], rows)).to.have.length(5)
  })

  it('give a list an item each, and nobody the items of another', () => {
    const mapping = suggestMapping(outline, columns, { grouped: true })
    expect(mapping).to.deep.equal({
      buyer: 'Buyer',
      email: 'E-mail',
      'lots[].item': 'Item',
      'lots[].quantity': 'Quantity',
    })
    const [first, second] = groupRows(columns, ['Buyer'], rows)
    expect(readGroup(outline, columns, mapping, first!).data['lots']).to.deep.equal([
      { item: 'Nucleus', quantity: '12' },
      { item: 'Queen', quantity: '4' },
    ])
    expect(readGroup(outline, columns, mapping, second!).data['lots']).to.deep.equal([
      { item: 'Queen', quantity: '3' },
    ])
  })

  it('have to agree in what is no list: what differs is told with its row', () => {
    const mapping = { buyer: 'Buyer', email: 'E-mail' }
    const { problems, data } = readGroup(outline.slice(0, 2), columns, mapping, rows.slice(0, 2))
    expect(data['buyer']).to.equal('Fennel Bottom Farm')
    expect(problems[0]).to.deep.include({ field: 'buyer', column: 'Buyer', row: 3 })
    expect(problems[0]!.message).to.contain('in row 2 and “Sedge Harbor” here')
  })
})

describe('values that no column gives', () => {
  const { columns, rows } = sheet(['Orchard'], ['Brightwater'])
  const outline = [field('orchard', 'Orchard', 'text'), field('day', 'Day of signing', 'date')]
  const read = (values: Record<string, string>, asked: string[] = []) =>
    readGroup(outline, columns, { orchard: 'Orchard' }, rows, { values, asked })

  it('are the same for all rows, read as their field’s type', () => {
    expect(read({ day: 'April 11, 2027' }).data['day']).to.equal('2027-04-11')
    expect(read({ day: 'soon' }).problems[0]!.message).to.equal('“soon” is not a date.')
  })

  it('are asked for row by row until they are there', () => {
    expect(read({}, ['day']).problems).to.deep.equal([
      { field: 'day', column: null, message: '“Day of signing” is asked for this row.', kind: 'asked' },
    ])
    expect(read({ day: '2027-04-11' }, ['day']).problems).to.deep.equal([])
  })

  it('go before a column, and are missing where neither is', () => {
    expect(read({ orchard: 'Foxford', day: '2027-04-11' }).data['orchard']).to.equal('Foxford')
    expect(read({}).problems[0]!.message).to.equal('No column gives “Day of signing”.')
  })

  it('of a list’s field are for the items that have none', () => {
    const lots: Field = {
      ...field('lots', 'Lots', 'list'),
      items: [field('item', 'Item', 'text'), field('count', 'Count', 'number')],
    }
    const { columns: many, rows: two } = sheet(['Item', 'Count'], ['Nucleus', 12], ['Queen', null])
    const mapping = { 'lots[].item': 'Item', 'lots[].count': 'Count' }
    const given = (text: string) =>
      readGroup([lots], many, mapping, two, { values: { 'lots.count': text }, asked: [] })
    expect(given('3').data['lots']).to.deep.equal([
      { item: 'Nucleus', count: '12' },
      { item: 'Queen', count: '3' },
    ])
    expect(given('some').problems).to.deep.equal([
      { field: 'lots.count', column: null, message: '“some” is not a number.', kind: 'asked' },
    ])
  })
})

describe('the same customer', () => {
  const row = (number: number, said: string) => ({ row: number, said })
  const byName = { field: 'grower.name' }

  it('twice in a run is asked about at the second, whatever case', () => {
    const found = duplicateProblems(
      [row(4, 'Brightwater'), row(9, 'brightwater '), row(11, 'Foxford')],
      [],
      byName,
    )
    expect([...found.keys()]).to.deep.equal([9])
    expect(found.get(9)![0]).to.deep.include({
      kind: 'twice',
      message: '“brightwater ” stands in row 4 too.',
    })
  })

  it('with a live agreement is asked about, with its number', () => {
    const live = [{ number: 'LP-2027-0007', state: 'out' as const, said: 'Foxford' }]
    expect(duplicateProblems([row(11, 'Foxford')], live, byName).get(11)![0]!.message).to.equal(
      '“Foxford” has a live agreement already: LP-2027-0007, out.',
    )
  })

  it('is known by a column that is the same where the names are written differently', () => {
    const key = (...rows: readonly (readonly Cell[])[]) => {
      const { columns, rows: source } = sheet(['Grower', 'Mail', 'Contact', 'Booking no.'], ...rows)
      return keyColumn(columns, source, 'Grower')
    }
    const known = [
      ['Foxford', 'm@foxford.example', 'Amos Pell', 'B-1'],
      ['Foxford Orchards LLC', 'm@foxford.example', 'Amos Pell', 'B-2'],
      ['Brightwater', 'b@brightwater.example', 'Amos Pell', 'B-3'],
      ['Brightwater', 'b@brightwater.example', 'Amos Pell', 'B-4'],
      ['Alder', 'a@alder.example', 'Maud Ellery', 'B-5'],
      ['Sedge', 's@sedge.example', 'Maud Ellery', 'B-6'],
      ...Array.from({ length: 9 }, (_, i) => [
        `Tansy ${i}`,
        `t${i}@tansy.example`,
        `Linus Marsh ${i}`,
        `B-${i + 20}`,
      ]),
    ]
    expect(key(...known)).to.equal('Mail')
    // The names do as well; a cell is empty; the same name has two.
    expect(key(...known.slice(1)), 'nothing better').to.equal(null)
    expect(key(...known, ['Weir', '', 'Amos Pell', 'B-8']), 'not for everybody').to.equal(null)
    expect(key(...known, ['Sedge', 'x@sedge.example', 'Amos Pell', 'B-8']), 'not one each').to.equal(null)
  })

  it('is nobody where the name is empty', () => {
    expect(duplicateProblems([row(4, ''), row(5, ' ')], [], byName).size).to.equal(0)
  })
})

describe('what else a row says', () => {
  it('is a language by any of its names', () => {
    expect(['Spanish', 'español', 'es', 'es-mx', 'FRENCH'].map(readLanguage)).to.deep.equal([
      'es',
      'es',
      'es',
      'es-MX',
      'fr',
    ])
    expect(readLanguage('Klingon')).to.equal(null)
  })

  it('is addresses with any sign between, each once', () => {
    expect(readAddresses('a@x.example; b@x.example, a@x.example')).to.deep.equal({
      ok: true,
      addresses: ['a@x.example', 'b@x.example'],
    })
    expect(readAddresses('a@x.example, nobody')).to.deep.equal({
      ok: false,
      problem: '“nobody” is not an email address.',
    })
    expect(readAddresses('')).to.deep.equal({ ok: true, addresses: [] })
  })
})

describe('a mapping of the last time', () => {
  const outline = [field('name', 'Orchard', 'text'), field('bloom.start', 'First day of bloom', 'date')]
  const before = {
    columnNames: ['Orchard', 'Acres', 'Bloom start'],
    mapping: { name: 'Orchard', 'bloom.start': 'Bloom start' },
  }
  const columns = (...names: readonly string[]) =>
    names.map((name) => describeColumn(name, [/bloom/i.test(name) ? { date: '2027-03-28' } : 'x']))

  it('is carried over to a source of the same shape', () => {
    expect(recallMapping(outline, columns('Acres', 'Bloom start', 'Orchard'), [before])).to.deep.equal({
      mapping: before.mapping,
      drift: [],
    })
  })

  it('follows a column that goes by another name now, and says so', () => {
    const found = recallMapping(outline, columns('Orchard', 'Acres', 'Bloom from'), [before])
    expect(found?.mapping['bloom.start']).to.equal('Bloom from')
    expect(found?.drift).to.deep.equal([{ field: 'bloom.start', was: 'Bloom start', now: 'Bloom from' }])
  })

  it('says of a column that is gone without an heir that it is', () => {
    const found = recallMapping(outline, columns('Orchard', 'Acres', 'Remarks'), [before])
    expect(found?.drift).to.deep.equal([{ field: 'bloom.start', was: 'Bloom start', now: null }])
    expect(found?.mapping).to.deep.equal({ name: 'Orchard' })
  })

  it('is not forced on a source that is another one', () => {
    expect(recallMapping(outline, columns('Item', 'Price', 'Orchard'), [before])).to.equal(null)
  })
})
