import { formatsOf } from '#core/outline/field-kinds.ts'
import fc from 'fast-check'
import { emptyTemplate } from '#core/document/empty.ts'
import type { TemplateContent } from '#core/document/template.ts'
import type {
  BlankPlace,
  Block,
  Clause,
  Inline,
  ListItem,
  MarkName,
  TreePart,
  TableCell,
} from '#core/document/tree.ts'
import type { Field, RecordData } from '#core/outline/field.ts'

// Templates that nobody would write, for laws that hold of any. All of them can be published.

const field = (name: string, label: string, type: Field['type'], more: Partial<Field> = {}): Field => ({
  name,
  label,
  type,
  required: true,
  ...more,
})

export const madeUpOutline: readonly Field[] = [
  field('grower.name', 'Orchard', 'text'),
  field('grower.contact', 'Contact', 'text'),
  field('grower.email', 'Mail', 'email'),
  field('leased', 'Land leased', 'yes/no'),
  field('colonies', 'Colonies', 'number'),
  field('price', 'Price', 'money', { currency: 'USD' }),
  field('delivery', 'Delivery', 'date'),
  field('crop', 'Crop', 'choice', { choices: ['almond', 'cherry', 'pear'] }),
  field('lots', 'Lots', 'list', {
    items: [field('kind', 'Kind', 'text'), field('quantity', 'Quantity', 'number')],
  }),
]

const CONDITIONS = [
  'leased',
  'not(leased)',
  'colonies > 100',
  'crop = "almond"',
  'crop in ("cherry", "pear") and colonies <= 400',
  'grower.name = "O’Hara “Hill” Farm"',
  '{ few: colonies < 10 }.few',
  'count(lots) > 1',
]

const words = fc
  .array(fc.stringMatching(/^[A-Za-z0-9éßñ’&<>]{1,9}$/), { minLength: 1, maxLength: 7 })
  .map((all) => all.join(' '))
const marks = fc
  .uniqueArray(fc.constantFrom<MarkName>('bold', 'italic', 'underline'), { maxLength: 2 })
  // As the editor has them, in the order of its schema.
  .map((all) => (all.length ? { marks: [...all].sort().map((type) => ({ type })) } : {}))

const mergeField = fc
  .tuple(
    fc.constantFrom(...madeUpOutline.filter(({ type }) => type !== 'list')),
    fc.nat(),
    fc.boolean(),
    marks,
  )
  .map(([{ name, type }, n, own, styled]): Inline => {
    const formats = formatsOf(type)
    return {
      type: 'mergeField',
      attrs: { field: name, format: own ? formats[n % formats.length]! : null },
      ...styled,
    }
  })

const blank = fc
  .record({
    kind: fc.constantFrom('text' as const, 'number' as const, 'tick' as const, 'choice' as const),
    label: fc.stringMatching(/^[A-Za-z][A-Za-z ]{0,12}[a-z]$/),
    required: fc.boolean(),
    condition: fc.constantFrom(null, 'leased', 'colonies > 100'),
    locked: fc.boolean(),
  })
  .map(({ kind, label, required, condition, locked }): BlankPlace => ({
    type: 'blank',
    attrs: {
      id: '',
      kind,
      role: 'grower',
      label,
      required,
      ...(condition ? { condition } : {}),
      ...(kind === 'text' ? { prefill: 'grower.contact', locked } : {}),
      ...(kind === 'number' ? { check: 'value > 0', message: 'A number over 0.' } : {}),
      ...(kind === 'choice' ? { options: ['one', 'two', 'three'], least: 1, most: 2 } : {}),
      ...(kind === 'tick' ? { group: 'Ticks' } : {}),
    },
  }))

const text = fc.tuple(words, marks).map(([said, styled]): Inline => ({ type: 'text', text: said, ...styled }))

/** Inlines in a row: two texts never touch, as in the editor they would be one. */
const apart = (parts: readonly Inline[]): readonly Inline[] =>
  parts.flatMap((part, i) =>
    i > 0 && part.type !== 'hardBreak'
      ? [{ type: 'text', text: i % 2 ? ' · ' : ' – ' } as const, part]
      : [part],
  )
const joined = (parts: readonly Inline[]): readonly Inline[] => {
  const found: Inline[] = []
  for (const part of parts) {
    const last = found.at(-1)
    if (
      last?.type === 'text' &&
      part.type === 'text' &&
      JSON.stringify(last.marks ?? []) === JSON.stringify(part.marks ?? [])
    )
      found[found.length - 1] = { ...last, text: last.text + part.text }
    else found.push(part)
  }
  return found
}

const inlines = (phrases: boolean): fc.Arbitrary<readonly Inline[]> =>
  fc
    .tuple(
      text,
      fc.array(
        phrases
          ? fc.oneof(
              { weight: 3, arbitrary: text },
              { weight: 3, arbitrary: mergeField },
              { weight: 1, arbitrary: blank },
              {
                weight: 1,
                arbitrary: fc
                  .tuple(fc.constantFrom(...CONDITIONS), text, mergeField)
                  .map(([condition, said, shown]): Inline => ({
                    type: 'phrase',
                    attrs: { id: '', condition },
                    content: joined(apart([said, shown])),
                  })),
              },
            )
          : fc.oneof(text, mergeField),
        { maxLength: 4 },
      ),
    )
    .map(([first, more]) => joined(apart([first, ...more])))

const attrs = fc
  .option(fc.constantFrom(...CONDITIONS), { nil: null, freq: 4 })
  .map((condition) => ({ id: '', condition }))
const always = { id: '', condition: null }

const paragraph = fc
  .tuple(attrs, inlines(true))
  .map(([own, content]): Block => ({ type: 'paragraph', attrs: own, content }))
const heading = fc
  .tuple(attrs, fc.constantFrom(1 as const, 2 as const, 3 as const), words)
  .map(([own, level, said]): Block => ({
    type: 'heading',
    attrs: { ...own, level },
    content: [{ type: 'text', text: said }],
  }))
const list = fc
  .tuple(
    fc.constantFrom('bulletList' as const, 'orderedList' as const),
    fc.array(fc.tuple(inlines(false), fc.option(inlines(false), { nil: null, freq: 3 })), {
      minLength: 1,
      maxLength: 4,
    }),
  )
  .map(([type, items]): Block => {
    const item = (content: readonly Inline[], inner: readonly Inline[] | null): ListItem => ({
      type: 'listItem',
      content: [
        { type: 'paragraph', attrs: always, content },
        ...(inner ? [{ type, attrs: always, content: [item(inner, null)] } as Block] : []),
      ],
    })
    return { type, attrs: always, content: items.map(([content, inner]) => item(content, inner)) }
  })
const table = fc
  .tuple(
    fc.integer({ min: 1, max: 4 }),
    fc.array(fc.tuple(fc.option(fc.constantFrom(...CONDITIONS), { nil: null, freq: 4 }), inlines(false)), {
      minLength: 1,
      maxLength: 4,
    }),
  )
  .map(([columns, rows]): Block => {
    const cell = (type: TableCell['type'], content: readonly Inline[]): TableCell => ({
      type,
      attrs: { colspan: 1, rowspan: 1, colwidth: [120], align: 'left' },
      content: [{ type: 'paragraph', attrs: always, content }],
    })
    return {
      type: 'table',
      attrs: always,
      content: [
        {
          type: 'tableRow',
          attrs: always,
          content: Array.from({ length: columns }, (_, i) =>
            cell('tableHeader', [{ type: 'text', text: `Column ${i + 1}` }]),
          ),
        },
        ...rows.map(([condition, content]) => ({
          type: 'tableRow' as const,
          attrs: { id: '', condition },
          content: Array.from({ length: columns }, () => cell('tableCell', content)),
        })),
      ],
    }
  })

/** Lists of one kind that follow each other are one list. */
const parted = (blocks: readonly Block[]): readonly Block[] =>
  blocks.filter((block, i) => !/List$/.test(block.type) || block.type !== blocks[i - 1]?.type)

const clauseOf = (inside: fc.Arbitrary<Block>): fc.Arbitrary<Clause> =>
  fc.tuple(attrs, inlines(true), fc.array(inside, { maxLength: 3 })).map(([own, content, more]) => ({
    type: 'clause',
    attrs: own,
    content: [{ type: 'paragraph', attrs: always, content }, ...parted(more)],
  }))
const third = clauseOf(list)
const second = clauseOf(fc.oneof(third, list))
const first = clauseOf(fc.oneof(second, list))

/** Ids in reading order, so that the same tree has the same ones. */
function numbered(blocks: readonly Block[]): readonly Block[] {
  let count = 0
  const visit = <P extends TreePart>(part: P): P => {
    const own =
      'attrs' in part && part.attrs && 'id' in part.attrs
        ? { attrs: { ...part.attrs, id: `m${++count}` } }
        : {}
    return {
      ...part,
      ...own,
      ...('content' in part && part.content ? { content: part.content.map(visit) } : {}),
    }
  }
  return blocks.map(visit)
}

/** Any template over `madeUpOutline`, with a title and signatures, as a draft of the editor is. */
export const anyTemplate: fc.Arbitrary<TemplateContent> = fc
  .array(fc.oneof({ weight: 3, arbitrary: first }, paragraph, heading, table), { minLength: 1, maxLength: 6 })
  .map((blocks) => {
    const base = emptyTemplate('Made up')
    return {
      ...base,
      outline: madeUpOutline,
      roles: [
        {
          key: 'grower',
          label: 'Grower',
          shape: 'circle',
          order: 1,
          fill: { rule: 'record', name: 'grower.contact', email: 'grower.email', title: null },
        },
      ],
      tickGroups: [{ name: 'Ticks', least: 0, most: null }],
      document: {
        type: 'doc',
        content: numbered([
          { type: 'heading', attrs: { ...always, level: 1 }, content: [{ type: 'text', text: 'Made up' }] },
          ...blocks,
          { type: 'signatureBlock', attrs: { ...always, roles: ['grower'] } },
        ]),
      },
    }
  })

/** Any record that `madeUpOutline` can be given. */
export const anyRecord: fc.Arbitrary<RecordData> = fc.record({
  'grower.name': fc.oneof(words, fc.constant('O’Hara “Hill” Farm')),
  'grower.contact': words,
  'grower.email': fc.constant('maud@orchard.example'),
  leased: fc.boolean(),
  colonies: fc.integer({ min: 0, max: 1000 }).map(String),
  price: fc.integer({ min: 0, max: 10_000_000 }).map((cents) => (cents / 100).toFixed(2)),
  delivery: fc.integer({ min: 1, max: 28 }).map((day) => `2027-03-${String(day).padStart(2, '0')}`),
  crop: fc.constantFrom('almond', 'cherry', 'pear'),
  lots: fc.array(fc.record({ kind: words, quantity: fc.integer({ min: 1, max: 99 }).map(String) }), {
    maxLength: 3,
  }),
})
