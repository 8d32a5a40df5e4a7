import { COMPARISONS, type ConditionGroup, type ConditionRow, expressionToRows, isGroup } from './rows.ts'

/** Names and values as the reader knows them. `value` is as an expression has it, without its quotation marks. */
export interface Plainly {
  readonly label: (name: string) => string
  readonly value: (name: string, value: string) => string
}

const listed = (all: readonly string[], word: string): string =>
  all.length < 2 ? (all[0] ?? '') : `${all.slice(0, -1).join(', ')} ${word} ${all.at(-1)!}`

function row({ field, comparison, values }: ConditionRow, plainly: Plainly): string {
  const [first = '', second = ''] = values.map((value) => plainly.value(field, value))
  const name = plainly.label(field)
  switch (comparison) {
    case 'is yes':
      return `${name} is yes`
    case 'is no':
      return `${name} is no`
    case 'is empty':
    case 'is filled':
      return `${name} ${COMPARISONS[comparison]}`
    case 'lies between':
      return `${name} lies between ${first} and ${second}`
    case 'is one of':
      return `${name} is ${listed(
        values.map((value) => plainly.value(field, value)),
        'or',
      )}`
    default:
      return `${name} ${COMPARISONS[comparison]} ${first}`
  }
}

function group({ join, parts }: ConditionGroup, plainly: Plainly, inner: boolean): string {
  const told = parts.map((part) => (isGroup(part) ? group(part, plainly, true) : row(part, plainly)))
  const text = told.join(join === 'all' ? ' and ' : ' or ')
  return inner && parts.length > 1 ? `(${text})` : text
}

/** A condition as one would say it, "payment is in advance and total is over 80,000"; where it says more than rows can, as it is written. */
export function plainCondition(text: string, plainly: Plainly): string {
  const rows = expressionToRows(text)
  return rows && rows.parts.length > 0 ? group(rows, plainly, false) : text
}
