import { keysOf } from '../keys-of.ts'
import { Decimal } from 'decimal.js'
import type { SignerRole, TemplateContent } from '../document/template.ts'
import { type Context, isContext, isList, number, type Value, valueAt } from '../expression/values/value.ts'
import { type Totals, totalsOf } from '../money/line-items.ts'
import type { Field, Outline } from '../outline/field.ts'
import { type ComputedField, currencyOf, LINE_AMOUNT, lineValues } from '../outline/record.ts'
import { perObject } from '../per-object.ts'
import { joined, nameParts } from '../words/join.ts'

// Besides the outline's own fields a template has fields that come by themselves: the details of each role's person
// (`signer.buyer.full_name`), and the amounts and totals of lists of priced items.

/** Details of a person as merge fields; the order in which they are offered. */
export const PERSON_DETAILS = {
  full_name: 'full name',
  first_name: 'first name',
  last_name: 'last name',
  title: 'title',
  company: 'company',
  email: 'mail address',
  phone: 'telephone',
} as const
export type PersonDetail = keyof typeof PERSON_DETAILS

/** Group under which the roles' fields stand. */
export const SIGNER_GROUP = 'signer'
/** The name of a field about whoever fills a role. */
export const signerField = (role: string, detail: PersonDetail): string => `${SIGNER_GROUP}.${role}.${detail}`

/** A person's details as far as a role's rule tells them. */
export type Details = Readonly<Record<PersonDetail, string>>

const textOf = (value: Value): string => (typeof value === 'string' ? value : '')

function details(name: string, more: Partial<Record<PersonDetail, string | null | undefined>>): Details {
  const { first, last } = nameParts(name)
  return {
    full_name: name,
    first_name: first,
    last_name: last,
    title: more.title ?? '',
    company: more.company ?? '',
    email: more.email ?? '',
    phone: more.phone ?? '',
  }
}

/** The people a role's fill rule finds in a record: one, or as many as its list has items. */
export function peopleOfRole(role: SignerRole, record: Context): readonly Details[] {
  const { fill } = role
  if (fill.rule === 'standing person') return [details(fill.name, fill)]
  if (fill.rule !== 'record') {
    const read = (detail: PersonDetail) => textOf(valueAt(record, signerField(role.key, detail)))
    return [
      details(read('full_name'), {
        title: read('title'),
        company: read('company'),
        email: read('email'),
        phone: read('phone'),
      }),
    ]
  }
  const from = (context: Context) => {
    const read = (name: string | null | undefined) => (name ? textOf(valueAt(context, name)) : '')
    return details(read(fill.name), {
      title: read(fill.title),
      company: read(fill.company),
      email: read(fill.email),
      phone: read(fill.phone),
    })
  }
  if (!fill.list) return [from(record)]
  const items = valueAt(record, fill.list)
  return isList(items) ? items.filter(isContext).map(from) : []
}

const roleField = (role: SignerRole, detail: PersonDetail): Field => ({
  name: signerField(role.key, detail),
  label: `${role.label}, ${PERSON_DETAILS[detail]}`,
  type: detail === 'email' ? 'email' : detail === 'phone' ? 'phone' : 'text',
  required: false,
})

const DETAILS = keysOf(PERSON_DETAILS)

function roleFields(role: SignerRole, language: string): readonly ComputedField[] {
  const { fill } = role
  const reads =
    fill.rule !== 'record'
      ? []
      : fill.list
        ? [fill.list]
        : [fill.name, fill.email, fill.title, fill.company, fill.phone].filter(
            (name) => typeof name === 'string',
          )
  // What nobody gives is worked out here; of someone asked for or sending, full name and address are given.
  const given = fill.rule === 'ask' || fill.rule === 'whoever sends' ? ASKED : []
  // What these read is there before the first of the details is asked for, and stays.
  const peopleIn = perObject((record: Context) => peopleOfRole(role, record))
  return DETAILS.filter((detail) => !given.includes(detail)).map((detail) => ({
    field: roleField(role, detail),
    reads,
    evaluate: (record) => {
      const found = peopleIn(record)
        .map((person) => person[detail])
        .filter((text) => text !== '')
      return found.length ? joined(found, 'conjunction', language) : null
    },
  }))
}

const ASKED: readonly PersonDetail[] = ['full_name', 'email', 'title', 'company', 'phone']

/** Fields that a source or a prompt has to give besides the outline's own: the person of a role that is asked for. */
const askedFields = (content: TemplateContent): readonly Field[] =>
  content.roles
    .filter((role) => role.fill.rule === 'ask')
    .flatMap((role) =>
      ASKED.map((detail) => ({
        ...roleField(role, detail),
        required: (detail === 'full_name' || detail === 'email') && !role.optional && !role.condition,
      })),
    )

/** Fields that whoever sends gives by sending. */
const senderFields = (content: TemplateContent): readonly Field[] =>
  content.roles
    .filter((role) => role.fill.rule === 'whoever sends')
    .flatMap((role) => ASKED.map((detail) => roleField(role, detail)))

/** The sender's own details as data of the roles that whoever sends fills. */
export const senderData = (
  content: TemplateContent,
  sender: { readonly name: string; readonly email: string; readonly title: string; readonly company: string },
): Readonly<Record<string, string>> =>
  Object.fromEntries(
    content.roles
      .filter((role) => role.fill.rule === 'whoever sends')
      .flatMap((role) => [
        [signerField(role.key, 'full_name'), sender.name],
        [signerField(role.key, 'email'), sender.email],
        [signerField(role.key, 'title'), sender.title],
        [signerField(role.key, 'company'), sender.company],
      ]),
  )

const totalNames = {
  subtotal: 'sum of the lines',
  discount: 'discount on the whole',
  net: 'net total',
  tax: 'tax',
  gross: 'total with tax',
} as const

/** Group of a list's totals: `lines_totals.net`; the taxes by rate are the list `lines_taxes`. */
export const totalsGroup = (list: string): string => `${list}_totals`
/** The name of the list of a priced list’s taxes. */
export const taxesList = (list: string): string => `${list}_taxes`

function totals(list: Field, outline: Outline, record: Context): Totals | null {
  const rule = list.lineItems!
  const items = valueAt(record, list.name)
  const lines = isList(items) ? items.filter(isContext).map((item) => lineValues(list, item)) : []
  if (lines.some((line) => line === null)) return null
  const value = rule.overallDiscount === null ? null : valueAt(record, rule.overallDiscount)
  const percent = outline.find(({ name }) => name === rule.overallDiscount)?.type === 'percent'
  const overall = !(value instanceof Decimal) ? null : percent ? { percent: value } : { amount: value }
  return totalsOf(
    lines.map((line) => line!),
    overall,
    currencyOf(list),
    rule.rounding,
  )
}

function totalFields(list: Field, outline: Outline): readonly ComputedField[] {
  // Six fields tell of the same totals: they are worked out once for each record.
  const totalsIn = perObject((record: Context) => totals(list, outline, record))
  const currency = currencyOf(list)
  const rule = list.lineItems!
  const reads = [list.name, ...(rule.overallDiscount ? [rule.overallDiscount] : [])]
  const money = (name: string, label: string): Field => ({
    name,
    label,
    type: 'money',
    currency,
    required: false,
  })
  const single = keysOf(totalNames).map((key): ComputedField => ({
    field: money(`${totalsGroup(list.name)}.${key}`, `${list.label}, ${totalNames[key]}`),
    reads,
    evaluate: (record) => totalsIn(record)?.[key] ?? null,
  }))
  const taxes: ComputedField = {
    field: {
      name: taxesList(list.name),
      label: `${list.label}, tax by rate`,
      type: 'list',
      required: false,
      items: [
        { name: 'rate', label: 'Tax rate', type: 'percent', required: false },
        money('base', 'Taxed amount'),
        money('tax', 'Tax'),
      ],
    },
    reads,
    evaluate: (record) =>
      totalsIn(record)?.taxes.map(
        ({ rate, base, tax }) =>
          new Map<string, Value>([
            ['rate', number(rate)],
            ['base', base],
            ['tax', tax],
          ]),
      ) ?? null,
  }
  return [...single, taxes]
}

/** A list with the field that its priced items have by themselves. */
const withAmount = (field: Field): Field =>
  field.type === 'list' && field.lineItems
    ? {
        ...field,
        items: [
          ...(field.items ?? []),
          {
            name: LINE_AMOUNT,
            label: 'Amount',
            type: 'money',
            currency: currencyOf(field),
            required: false,
          },
        ],
      }
    : field

/** All fields of a template, by where they come from. */
export interface TemplateFields {
  /** The outline with the fields of people who are asked for or send, and the amounts of priced items. */
  readonly outline: Outline
  /** Fields that are worked out without a formula. */
  readonly given: readonly ComputedField[]
  /** Everything merge fields and expressions may name. */
  readonly all: Outline
}

/** All fields of a template. */
export function templateFields(content: TemplateContent): TemplateFields {
  const outline = [...content.outline.map(withAmount), ...askedFields(content), ...senderFields(content)]
  const given = [
    ...content.roles.flatMap((role) => roleFields(role, content.language)),
    ...content.outline
      .filter((field) => field.type === 'list' && field.lineItems)
      .flatMap((list) => totalFields(list, content.outline)),
  ]
  return { outline, given, all: [...outline, ...given.map(({ field }) => field)] }
}

/** What a source has to supply: fields that are neither computed nor come by themselves. */
export const suppliedFields = (content: TemplateContent): Outline =>
  [...content.outline, ...askedFields(content)].filter((field) => field.computed === undefined)
