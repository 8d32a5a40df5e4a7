import { initial } from '../text/cut.ts'
import type { SignerRole } from '../document/template.ts'
import type { Block, Inline, Table } from '../document/tree.ts'
import type { Context, Value } from '../expression/values/value.ts'
import { perObject } from '../per-object.ts'
import { type FinishedBlank, type Person, type Stretch, stretchStyle } from './finished.ts'

/** A run that is the same in every record. */
export const fixedRun = (part: Inline & { type: 'text' | 'hardBreak' }): Stretch =>
  part.type === 'hardBreak'
    ? { kind: 'break' }
    : { kind: 'text', text: part.text, ...stretchStyle(part.marks), origin: null, gap: false }

/** The runs of content that is the same in every record, made once; null for other content. */
export const fixedRuns = perObject((content: readonly Inline[]): readonly Stretch[] | null =>
  content.every((part) => part.type === 'text' || part.type === 'hardBreak') ? content.map(fixedRun) : null,
)

/** The names of an item, as expressions in its repeat see them. */
export const itemNames = (context: Context): readonly (readonly [string, Value])[] => {
  const item = context.get('item')
  return item instanceof Map ? [...(item as Context)] : []
}

/** What every finished block has of its own. */
export const common = (block: Block) => ({ keep: block.attrs.keep === true, source: block.attrs.id })

/** Widths of a table's columns from the row that tells most of them; columns without one share what is left evenly. */
export function columnWidths(table: Table, columns: number): readonly number[] {
  const widths = new Array<number>(columns).fill(0)
  for (const row of table.content) {
    let at = 0
    for (const { attrs } of row.content) {
      attrs.colwidth?.forEach((width, i) => {
        if (width > 0 && at + i < columns && widths[at + i] === 0) widths[at + i] = width
      })
      at += attrs.colspan
    }
  }
  const known = widths.filter((width) => width > 0)
  const usual = known.length ? known.reduce((a, b) => a + b, 0) / known.length : 1
  return widths.map((width) => width || usual)
}

/** A blank as the pages need it: whose it is, and what stands there already. */
export function finishedBlank(
  role: SignerRole,
  person: Person,
  blank: Pick<FinishedBlank, 'id' | 'kind' | 'label' | 'required' | 'rules'>,
): FinishedBlank {
  const { id, kind, label, required, rules } = blank
  return {
    id,
    kind,
    role: person.role,
    shape: role.shape,
    letter: initial(role.label),
    label,
    required,
    rules,
  }
}
