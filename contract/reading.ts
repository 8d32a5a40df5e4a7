import * as v from 'valibot'
import type { ReadingBlock, ReadingDocument } from '#core/ceremony/reading.ts'

const place = v.object({ id: v.nullable(v.string()), label: v.string(), said: v.string() })
const runs = v.array(
  v.variant('kind', [
    v.object({
      kind: v.literal('text'),
      text: v.string(),
      bold: v.boolean(),
      italic: v.boolean(),
      underline: v.boolean(),
    }),
    v.object({ kind: v.literal('break') }),
    v.object({ kind: v.literal('place'), place }),
  ]),
)
const blocks = v.lazy(() => v.array(block))
const block: v.GenericSchema<ReadingBlock> = v.variant('kind', [
  v.object({ kind: v.literal('heading'), level: v.number(), runs }),
  v.object({ kind: v.literal('paragraph'), runs }),
  v.object({ kind: v.literal('clause'), number: v.string(), depth: v.number(), blocks }),
  v.object({ kind: v.literal('list'), ordered: v.boolean(), items: v.array(blocks) }),
  v.object({
    kind: v.literal('table'),
    rows: v.array(
      v.object({
        head: v.boolean(),
        cells: v.array(
          v.object({
            blocks,
            colspan: v.number(),
            rowspan: v.number(),
            align: v.picklist(['left', 'center', 'right']),
            head: v.boolean(),
          }),
        ),
      }),
    ),
  }),
  v.object({ kind: v.literal('image'), file: v.string(), alt: v.string(), width: v.number() }),
  v.object({
    kind: v.literal('signatures'),
    parties: v.array(
      v.object({ label: v.string(), name: v.string(), title: v.string(), signature: place, date: place }),
    ),
  }),
])

/** What a party reads on a narrow screen: the documents as flowing text (core/ceremony/reading.ts). */
export const readingSchema: v.GenericSchema<{ readonly documents: readonly ReadingDocument[] }> = v.object({
  documents: v.array(v.object({ title: v.string(), language: v.string(), blocks, onPages: v.array(place) })),
})
