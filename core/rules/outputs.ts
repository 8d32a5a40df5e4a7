import { type AnyOf, readApprovers } from '../approvers/mention.ts'
import type { Directory } from '../approvers/directory.ts'
import { isEmail } from '../outline/coerce.ts'
import { keysOf } from '../keys-of.ts'

/** What a cell says, or what is wrong with it. */
export type Read<T> =
  | { readonly ok: true; readonly value: T }
  | { readonly ok: false; readonly problem: string; readonly nearest?: string | null }

/** What a row can say, as it counts. */
export interface Outcome {
  /** Each has to approve; of each, any one. */
  readonly approver: readonly AnyOf[]
  /** Steps of a lower number come first; those of the same go on side by side. */
  readonly order: number
  /** Days after which a step is overdue; null: never. */
  readonly days: number | null
  /** Why no agreement is made; null: it is. */
  readonly refuse: string | null
  /** Days to sign in; null: as usual. */
  readonly signBy: number | null
  /** Mail addresses that get the executed document too. */
  readonly copies: readonly string[]
}
export type OutputKey = keyof Outcome

interface OutputKind<K extends OutputKey> {
  readonly label: string
  /** What is to be written. */
  readonly hint: string
  /** Of an empty cell. */
  readonly empty: Outcome[K]
  readonly read: (text: string, directory: Directory) => Read<Outcome[K]>
}

const wholeNumber =
  (what: string, most: number) =>
  (text: string): Read<number> =>
    /^\d{1,4}$/.test(text) && Number(text) >= 1 && Number(text) <= most
      ? { ok: true, value: Number(text) }
      : { ok: false, problem: `${what} is a whole number from 1 to ${most}.` }

/** The outputs there are. A new one is a line here, and a line where what it says is done. */
export const OUTPUTS: { readonly [K in OutputKey]: OutputKind<K> } = {
  approver: {
    label: 'Who approves',
    hint: 'a post, a person, a team; commas: all of them; or: one of them; nobody',
    empty: [],
    read: (text, directory) => {
      const found = readApprovers(text, directory)
      return found.ok ? { ok: true, value: found.all } : found
    },
  },
  order: {
    label: 'Order',
    hint: '1 comes before 2; the same number: side by side',
    empty: 1,
    read: wholeNumber('The order', 20),
  },
  days: {
    label: 'Days',
    hint: 'days until it is overdue',
    empty: null,
    read: wholeNumber('The time', 365),
  },
  refuse: {
    label: 'Refuse',
    hint: 'why it is not made at all',
    empty: null,
    read: (text) => ({ ok: true, value: text }),
  },
  signBy: {
    label: 'Sign within',
    hint: 'days to sign in',
    empty: null,
    read: wholeNumber('The time to sign', 365),
  },
  copies: {
    label: 'Copy to',
    hint: 'email addresses, commas between',
    empty: [],
    read: (text) => {
      const all = text
        .split(/[,;\n]/)
        .map((each) => each.trim())
        .filter((each) => each !== '')
      const wrong = all.find((each) => !isEmail(each))
      return wrong === undefined
        ? { ok: true, value: all }
        : { ok: false, problem: `“${wrong}” is not an email address.` }
    },
  },
}
/** All outputs, in the order they are offered. */
export const OUTPUT_KEYS: readonly OutputKey[] = keysOf(OUTPUTS)

/** A row's outputs read; what cannot be read is as if it were empty. */
export function readOutcome(
  then: Readonly<Partial<Record<OutputKey, string>>>,
  directory: Directory,
): Outcome {
  const one = <K extends OutputKey>(key: K): Outcome[K] => {
    const text = (then[key] ?? '').trim()
    const kind: OutputKind<K> = OUTPUTS[key]
    const found = text === '' ? null : kind.read(text, directory)
    return found?.ok ? found.value : kind.empty
  }
  return {
    approver: one('approver'),
    order: one('order'),
    days: one('days'),
    refuse: one('refuse'),
    signBy: one('signBy'),
    copies: one('copies'),
  }
}
