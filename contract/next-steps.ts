import * as v from 'valibot'
import {
  DELAY_UNITS,
  MOMENTS,
  MOST_STEPS,
  type Step,
  STEP_KINDS,
  type StepKind,
  type StepKinds,
} from '#core/next-steps/steps.ts'
import { FOLLOWING } from '#core/states/all.ts'
import { count, id, instant, shortText } from './basics.ts'
import { fieldSchema } from './document.ts'

const expression = v.pipe(v.string(), v.trim(), v.maxLength(4000))
const pattern = v.pipe(v.string(), v.trim(), v.maxLength(500))
const name = v.pipe(v.string(), v.minLength(1), v.maxLength(120))
const country = v.pipe(
  v.string(),
  v.regex(/^[A-Z]{2}$/, 'A country is two letters (ISO 3166-1), such as US.'),
)

const common = {
  id: v.pipe(v.string(), v.regex(/^[\w-]{1,60}$/)),
  on: v.picklist(MOMENTS),
  when: expression,
  delay: v.object({ count: v.pipe(count, v.maxValue(3650)), unit: v.picklist(DELAY_UNITS) }),
  tell: id,
}

/** What each kind of step is given: a kind without its schema, or with another than its type, does not compile. */
const GIVEN = {
  'file to the record': { name: pattern },
  'file to a folder': { folder: id, name: pattern },
  mail: {
    to: pattern,
    subject: pattern,
    text: v.pipe(v.string(), v.trim(), v.maxLength(5000)),
    attach: v.boolean(),
  },
  'tell a program': { program: id },
  'tell the customer system': { status: pattern, link: v.boolean(), file: v.boolean() },
  'follow-up': { person: id, text: pattern, days: v.pipe(count, v.maxValue(3650)) },
  'change the record': { of: v.picklist(['record', 'customer']), field: name, value: expression },
  'next document': {
    template: id,
    send: v.boolean(),
    bill: v.nullable(
      v.object({
        name,
        address: name,
        due: v.nullable(name),
        sellerCountry: country,
        buyerCountry: country,
      }),
    ),
  },
} as const satisfies {
  readonly [K in StepKind]: { readonly [P in keyof StepKinds[K]]: v.GenericSchema<StepKinds[K][P]> }
}

const step = v.variant(
  'kind',
  STEP_KINDS.map((kind) => v.object({ ...common, kind: v.literal(kind), ...GIVEN[kind] })),
)

const stepAsKept = step as unknown as v.GenericSchema<Step>
const named = v.object({ id, name: v.string() })

/** Whose list it is. */
export const aftermathParams = v.object({ kind: v.picklist(['template', 'packet']), id })

/** What follows the agreements of a template or packet, with all that steps can name. */
export const aftermathSchema = v.object({
  name: v.string(),
  steps: v.array(stepAsKept),
  version: count,
  /** Nobody signs what they follow. */
  notice: v.boolean(),
  outline: v.array(fieldSchema),
  choices: v.object({
    folders: v.array(named),
    programs: v.array(named),
    people: v.array(named),
    templates: v.array(named),
    recordFields: v.object({
      customer: v.array(fieldSchema),
      deal: v.array(fieldSchema),
      contact: v.array(fieldSchema),
    }),
  }),
  problems: v.array(v.object({ step: v.string(), message: v.string() })),
})
/** A list to be kept; `version` 0: there was none. */
export const aftermathSave = v.object({
  steps: v.pipe(
    v.array(stepAsKept),
    v.maxLength(MOST_STEPS),
    v.check(
      (steps) => new Set(steps.map((each) => each.id)).size === steps.length,
      'Each step has its own id.',
    ),
  ),
  version: count,
})

/** One step of one agreement. */
export const stepTold = v.object({
  id,
  agreement: v.object({ id, number: v.string(), name: v.string() }),
  says: v.string(),
  on: v.picklist(MOMENTS),
  state: v.picklist(FOLLOWING.states),
  dueAt: instant,
  endedAt: v.nullable(instant),
  tries: count,
  said: v.string(),
  /** The document that it made. */
  made: v.nullable(id),
  tell: v.string(),
})

/** Something that somebody has to do. */
export const followUpSchema = v.object({
  id,
  text: v.string(),
  dueOn: v.string(),
  agreement: v.object({ id, number: v.string(), name: v.string() }),
})

/** Where documents are filed to. */
export const folderSchema = v.object({
  id,
  name: v.string(),
  kind: v.picklist(['local', 'webdav']),
  address: v.string(),
  userName: v.string(),
})
export const folderWish = v.pipe(
  v.object({
    name: shortText,
    kind: v.picklist(['local', 'webdav']),
    address: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(1000)),
    userName: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(200)), ''),
    secret: v.optional(v.pipe(v.string(), v.maxLength(500)), ''),
  }),
  v.check(
    ({ kind, address }) => kind === 'local' || (URL.canParse(address) && /^https?:/.test(address)),
    'Write the address as https://name/folder.',
  ),
)
