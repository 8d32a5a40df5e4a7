import type { TypeName } from '../expression/values/value.ts'
import { keysOf } from '../keys-of.ts'
import type { ColumnType } from './cell.ts'

/** What differs between types of fields, in one place: whatever asks for it asks here, and whoever adds a type is asked for it. */
interface FieldKind {
  /** Its type in expressions; how it is compared, ordered and aligned follows from that. */
  readonly feel: TypeName
  /** Its values in one word, as in “does not hold dates”. */
  readonly values: string
  /** Columns that can feed it, the one that holds just its values first. */
  readonly columns: readonly ColumnType[]
  /** Display formats of its merge fields, the default first. The format belongs to the merge field, never to the source. */
  readonly formats: readonly [string, ...string[]]
  /** As JSON Schema 2020-12 has it, with a format where there is one; a number may come as text, so that no digit is lost. */
  readonly schema: Readonly<Record<string, unknown>>
  /** The signers' words for a response that is none of its values. */
  readonly wrong: `form.wrong.${string}`
}

/** The types of fields, in the order in which they are offered. */
export const FIELD_KINDS = {
  text: {
    feel: 'string',
    values: 'text',
    columns: ['text', 'number', 'email'],
    formats: ['as written', 'capitals', 'first letters capital', 'small letters'],
    schema: { type: 'string' },
    wrong: 'form.wrong.text',
  },
  'long text': {
    feel: 'string',
    values: 'text',
    columns: ['text'],
    formats: ['as written', 'one line'],
    schema: { type: 'string' },
    wrong: 'form.wrong.text',
  },
  number: {
    feel: 'number',
    values: 'numbers',
    columns: ['number'],
    formats: ['number', 'whole', 'one decimal', 'two decimals', 'in words', 'in words with figure'],
    schema: { type: ['number', 'string'] },
    wrong: 'form.wrong.number',
  },
  money: {
    feel: 'number',
    values: 'amounts',
    columns: ['number'],
    formats: ['with sign', 'with code', 'amount only', 'in words', 'in words with figure'],
    schema: { type: ['number', 'string'] },
    wrong: 'form.wrong.number',
  },
  percent: {
    feel: 'number',
    values: 'percentages',
    columns: ['percent', 'number'],
    formats: ['percent', 'points', 'in words'],
    schema: { type: ['number', 'string'] },
    wrong: 'form.wrong.number',
  },
  date: {
    feel: 'date',
    values: 'dates',
    columns: ['date', 'date and time'],
    formats: [
      'long',
      'full',
      'medium',
      'numeric',
      'day and month',
      'month and year',
      'year',
      'weekday',
      'ISO',
    ],
    schema: { type: 'string', format: 'date' },
    wrong: 'form.wrong.date',
  },
  time: {
    feel: 'time',
    values: 'times of day',
    columns: ['time'],
    formats: ['short', 'with seconds', 'ISO'],
    schema: { type: 'string' },
    wrong: 'form.wrong.time',
  },
  'date and time': {
    feel: 'date and time',
    values: 'dates and times',
    columns: ['date and time', 'date'],
    formats: ['long', 'medium', 'numeric', 'date alone', 'time alone', 'ISO'],
    schema: { type: 'string' },
    wrong: 'form.wrong.moment',
  },
  'yes/no': {
    feel: 'boolean',
    values: 'yes or no',
    columns: ['yes/no'],
    formats: ['yes or no', 'tick'],
    schema: { type: ['boolean', 'string'] },
    wrong: 'form.wrong.choice',
  },
  choice: {
    feel: 'string',
    values: 'the choices',
    columns: ['text'],
    formats: ['as written', 'capitals', 'small letters'],
    schema: { type: 'string' },
    wrong: 'form.wrong.choice',
  },
  email: {
    feel: 'string',
    values: 'email addresses',
    columns: ['email'],
    formats: ['as written'],
    schema: { type: 'string', format: 'email' },
    wrong: 'form.wrong.email',
  },
  phone: {
    feel: 'string',
    values: 'phone numbers',
    columns: ['text', 'number'],
    formats: ['as written'],
    schema: { type: 'string' },
    wrong: 'form.wrong.phone',
  },
  address: {
    feel: 'string',
    values: 'addresses',
    columns: ['text'],
    formats: ['as written', 'one line'],
    schema: { type: 'string' },
    wrong: 'form.wrong.text',
  },
  list: {
    feel: 'list',
    values: 'lists',
    columns: [],
    formats: ['sentence'],
    schema: { type: 'array' },
    wrong: 'form.wrong.text',
  },
} as const satisfies Readonly<Record<string, FieldKind>>

export type FieldType = keyof typeof FIELD_KINDS
/** The types of fields. */
export const FIELD_TYPES = keysOf(FIELD_KINDS)

/** A type's display formats, the default first. */
export const formatsOf = (type: FieldType): readonly [string, ...string[]] => FIELD_KINDS[type].formats

/** Columns that can feed a field of a type, the one that holds just its values first. */
export const columnsFor = (type: FieldType): readonly ColumnType[] => FIELD_KINDS[type].columns

/** The type that values of a field have in expressions. */
export const feelTypeOf = (type: FieldType): TypeName => FIELD_KINDS[type].feel

/** Whether values of a type are numbers. */
export const isNumeric = (type: FieldType): boolean => feelTypeOf(type) === 'number'
