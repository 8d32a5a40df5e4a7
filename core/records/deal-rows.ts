import {
  type Field,
  type FieldValue,
  isItems,
  type Outline,
  type PlainValue,
  type RecordData,
} from '../outline/field.ts'
import type { Cell, CellRow } from '../outline/cell.ts'

/** A deal with whom it is for, as far as the record book knows. */
export interface WholeDeal {
  readonly data: RecordData
  readonly customer: RecordData | null
  readonly contact: RecordData | null
}

/** The fields of deals, and of the customers and contacts that go along in their rows. */
export interface DealFields {
  readonly deal: Outline
  readonly customer: Outline
  readonly contact: Outline
}

interface ColumnOfDeals {
  readonly name: string
  readonly read: (deal: WholeDeal) => Cell
}

/**
 * Deals as rows of a sheet, so that whatever takes sheets takes deals: the deal's own fields, "Customer …", "Contact …",
 * and the items of lists in numbered columns ("Line 1 item", "Line 2 item").
 */
export function dealRows(
  fields: DealFields,
  deals: readonly WholeDeal[],
): { readonly names: readonly string[]; readonly rows: readonly CellRow[] } {
  const plain = (outline: Outline) =>
    outline.filter(({ type, computed }) => type !== 'list' && computed === undefined)
  const columns: readonly ColumnOfDeals[] = [
    ...plain(fields.customer).map((field) => ({
      name: field.name === 'name' ? 'Customer' : `Customer ${field.label.toLowerCase()}`,
      read: ({ customer }: WholeDeal) => cellOf(field, customer?.[field.name]),
    })),
    ...plain(fields.contact).map((field) => ({
      name: field.name === 'name' ? 'Contact' : `Contact ${field.label.toLowerCase()}`,
      read: ({ contact }: WholeDeal) => cellOf(field, contact?.[field.name]),
    })),
    ...plain(fields.deal)
      .filter(({ name }) => name !== 'contact')
      .map((field) => ({
        name: field.name === 'name' ? 'Deal' : field.label,
        read: ({ data }: WholeDeal) => cellOf(field, data[field.name]),
      })),
    ...fields.deal.filter(({ type }) => type === 'list').flatMap((list) => listColumns(list, deals)),
  ]
  return {
    names: columns.map(({ name }) => name),
    rows: deals.map((deal) => columns.map(({ read }) => read(deal))),
  }
}

const listColumns = (list: Field, deals: readonly WholeDeal[]): readonly ColumnOfDeals[] =>
  numberedColumns(
    list,
    deals.map(({ data }) => data),
  ).map(({ name, item, read }) => ({ name, read: ({ data }) => cellOf(item, read(data)) }))

/** A column that holds one field of the so-manieth item of a list. */
export interface NumberedColumn {
  readonly name: string
  readonly item: Field
  readonly read: (data: RecordData) => PlainValue | undefined
}

/** The items of a list in columns with a number ("Line 1 item"), as many as the longest of the records has. */
export function numberedColumns(list: Field, records: readonly RecordData[]): readonly NumberedColumn[] {
  const itemsOf = (data: RecordData) => {
    const value = data[list.name]
    return isItems(value) ? value : []
  }
  const most = Math.max(0, ...records.map((data) => itemsOf(data).length))
  const one = list.label.replace(/s$/, '')
  return Array.from({ length: most }, (_, i) =>
    (list.items ?? []).map((item) => ({
      name: `${one} ${i + 1} ${item.label.toLowerCase()}`,
      item,
      read: (data: RecordData) => itemsOf(data)[i]?.[item.name],
    })),
  ).flat()
}

/** A stored value as a cell: dates and percentages keep their kind, so that nothing is guessed on the way back. */
function cellOf(field: Field, value: FieldValue | undefined): Cell {
  if (value === undefined || typeof value === 'object') return null
  if (typeof value === 'boolean') return value
  switch (field.type) {
    case 'date':
      return { date: value }
    case 'time':
      return { time: value }
    case 'date and time':
      return { dateTime: value }
    // Decimal text all the way: a binary number would make 3.7 % into 3.7000000000000005.
    case 'percent':
      return `${value} %`
    default:
      return value
  }
}
