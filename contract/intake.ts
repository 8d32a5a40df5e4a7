import * as v from 'valibot'
import { type Answers, LONGEST_ANSWER, MOST_LINES } from '#core/intake/answers.ts'
import { AFTERWARDS, type IntakeForm, MOST_QUESTIONS, questionsOf } from '#core/intake/form.ts'
import { LANGUAGES } from '#core/languages/language.ts'
import { ANSWER } from '#core/states/all.ts'
import { count, id, instant, sha256, shortText } from './basics.ts'
import { fieldSchema } from './document.ts'

const language = v.picklist(LANGUAGES)
const line = v.pipe(v.string(), v.maxLength(300))
const passage = v.pipe(v.string(), v.maxLength(4000))
/** The name of a field, or of what asks for a file. */
const name = v.pipe(v.string(), v.minLength(1), v.maxLength(120))

const question = v.object({
  id: name,
  kind: v.picklist(['value', 'file']),
  label: v.pipe(line, v.trim(), v.minLength(1, 'A question has words.')),
  help: passage,
  example: line,
  required: v.boolean(),
  default: passage,
  also: v.pipe(v.array(name), v.maxLength(20)),
  when: passage,
  check: v.optional(passage),
  says: v.optional(line),
})

/** A form as it is kept and changed. */
export const intakeContent = v.pipe(
  v.object({
    title: shortText,
    introduction: passage,
    thanks: passage,
    language,
    pages: v.pipe(
      v.array(v.object({ id: name, title: line, questions: v.array(question) })),
      v.minLength(1, 'A form has a page.'),
      v.maxLength(MOST_QUESTIONS),
    ),
    leftOut: v.pipe(v.array(v.object({ field: name, value: passage })), v.maxLength(MOST_QUESTIONS)),
    email: v.nullable(name),
    record: v.nullable(
      v.object({
        kind: v.picklist(['customer', 'contact', 'deal']),
        key: name,
        fields: v.record(name, name),
      }),
    ),
    afterwards: v.picklist(AFTERWARDS),
    inOther: v.object({
      en: v.optional(v.record(v.pipe(v.string(), v.maxLength(140)), passage)),
      es: v.optional(v.record(v.pipe(v.string(), v.maxLength(140)), passage)),
      fr: v.optional(v.record(v.pipe(v.string(), v.maxLength(140)), passage)),
    }),
  }),
  v.check(
    (form) => questionsOf(form).length <= MOST_QUESTIONS,
    `A form has ${MOST_QUESTIONS} questions at the most.`,
  ),
  v.check((form) => {
    const ids = questionsOf(form).flatMap((each) => [each.id, ...each.also])
    return new Set(ids).size === ids.length
  }, 'Each question is asked once.'),
)

const formAsKept = intakeContent as unknown as v.GenericSchema<IntakeForm>

/** What a form is made of: one agreement of each template, or one of a packet. */
export const intakeStart = v.object({
  title: v.optional(shortText),
  templates: v.optional(v.pipe(v.array(id), v.maxLength(10)), []),
  packet: v.optional(v.nullable(id), null),
})

/** What is wrong with a form before it can take answers: a question, or the form as a whole. */
const formProblem = v.object({ question: v.nullable(v.string()), message: v.string() })

const linkSchema = v.object({
  id,
  name: v.string(),
  url: v.string(),
  closesAt: v.nullable(instant),
  mostAnswers: v.nullable(count),
  perHour: count,
  origins: v.array(v.string()),
  closedAt: v.nullable(instant),
  answers: count,
})

/** A form in a list. */
export const intakeSummary = v.object({
  id,
  title: v.string(),
  makes: v.array(v.string()),
  changedAt: instant,
  answers: count,
  waiting: count,
  open: count,
  problem: v.nullable(v.string()),
})

/** A form with what it is made of, as whoever changes it sees it. */
export const intakeDetail = v.object({
  id,
  content: formAsKept,
  version: v.number(),
  changedAt: instant,
  changedBy: v.string(),
  owner: v.object({ id, name: v.string() }),
  makes: v.object({
    packet: v.nullable(v.object({ id, name: v.string() })),
    templates: v.array(v.object({ id, name: v.string() })),
  }),
  /** Every value that its agreements need. */
  outline: v.array(fieldSchema),
  /** Fields of the kinds of record that answers can become. */
  recordFields: v.object({
    customer: v.array(fieldSchema),
    contact: v.array(fieldSchema),
    deal: v.array(fieldSchema),
  }),
  problems: v.array(formProblem),
  links: v.array(linkSchema),
})

/** A form to be kept; the version it was made from. */
export const intakeSave = v.object({ content: intakeContent, version: v.number() })
export const intakeSaved = v.object({ version: v.number(), problems: v.array(formProblem) })

/** Whether an origin is that of one host, written so that it can stand in a policy (CSP 3, 2.3.1): no pattern, no second directive. */
export const isOneOrigin = (text: string): boolean =>
  /^https?:\/\/(?:[a-z0-9](?:[a-z0-9.-]*[a-z0-9])?|\[[0-9a-f:.]+\])(?::\d{1,5})?$/.test(text)

/** An origin of the web (RFC 6454), by which a page is named that may show the form. */
const origin = v.pipe(
  v.string(),
  v.trim(),
  v.maxLength(300),
  v.check((text) => {
    if (!URL.canParse(text)) return false
    const { origin: own, protocol } = new URL(text)
    return (
      own === text.replace(/\/$/, '') && (protocol === 'https:' || protocol === 'http:') && isOneOrigin(own)
    )
  }, 'Write it as https://name, without a path.'),
  v.transform((text) => new URL(text).origin),
)

/** A public address of a form. */
export const openLinkWish = v.object({
  name: shortText,
  closesAt: v.nullable(instant),
  mostAnswers: v.nullable(v.pipe(count, v.minValue(1), v.maxValue(1_000_000))),
  perHour: v.pipe(count, v.minValue(1), v.maxValue(1000)),
  origins: v.pipe(v.array(origin), v.maxLength(20)),
})

const email = v.pipe(v.string(), v.trim(), v.email('This is not an email address.'), v.maxLength(254))

/** One person who is asked to answer; what the record says stands in the form already. */
export const invitationWish = v.object({
  name: shortText,
  email,
  record: v.optional(v.nullable(id), null),
  language,
  /** Whole days from now that the link holds. */
  days: v.pipe(count, v.minValue(1), v.maxValue(366)),
})

const plainAnswer = v.union([v.pipe(v.string(), v.maxLength(LONGEST_ANSWER)), v.boolean()])
const fileAnswer = v.object({ sha256, name: shortText, size: count })
/** What was answered, as it was typed, by question. */
export const answersSchema = v.pipe(
  v.record(
    name,
    v.union([
      plainAnswer,
      v.pipe(v.array(fileAnswer), v.minLength(1), v.maxLength(20)),
      v.pipe(v.array(v.record(name, plainAnswer)), v.maxLength(MOST_LINES)),
    ]),
  ),
  v.check(
    (answers) => Object.keys(answers).length <= MOST_QUESTIONS,
    'These are more answers than questions.',
  ),
)

const answersAsKept = answersSchema as unknown as v.GenericSchema<Answers>

const answerProblem = v.object({
  question: v.string(),
  line: v.optional(count),
  item: v.optional(v.string()),
  message: v.string(),
})

/** An answer in a list. */
export const answerSummary = v.object({
  id,
  form: v.object({ id, title: v.string() }),
  name: v.string(),
  email: v.string(),
  by: v.picklist(['open link', 'invitation']),
  state: v.picklist(ANSWER.states),
  outcome: v.nullable(v.picklist(['new', 'changed', 'same', 'taken', 'kept'])),
  createdAt: instant,
  handedInAt: v.nullable(instant),
  problem: v.nullable(v.string()),
})

/** One answer, with what has become of it. */
export const answerDetail = v.object({
  ...answerSummary.entries,
  version: v.number(),
  language,
  address: v.nullable(v.string()),
  expiresAt: v.nullable(instant),
  problems: v.array(answerProblem),
  differences: v.array(v.object({ field: v.string(), before: v.string(), after: v.string() })),
  record: v.nullable(v.object({ id, kind: v.picklist(['customer', 'contact', 'deal']), name: v.string() })),
  agreements: v.array(v.object({ id, number: v.string(), name: v.string(), state: v.string() })),
  files: v.array(
    v.object({ sha256, question: v.string(), name: v.string(), size: count, mediaType: v.string() }),
  ),
  content: formAsKept,
  outline: v.array(fieldSchema),
  answers: answersAsKept,
})

/** What the page of a form shows to whoever comes: nothing of anybody else. */
export const publicForm = v.object({
  /** `open`: it can be answered; `done`: this one is handed in. */
  standing: v.picklist(['open', 'done', 'over', 'full', 'ended']),
  from: v.string(),
  title: v.string(),
  language,
  closesDay: v.nullable(v.string()),
  /** Null while nothing may be answered. */
  content: v.nullable(formAsKept),
  outline: v.array(fieldSchema),
  /** Null by an open link, before anything is begun. */
  answer: v.nullable(
    v.object({ answers: answersAsKept, version: v.number(), known: v.boolean(), invited: v.boolean() }),
  ),
  /** Once it is handed in. */
  after: v.nullable(
    v.object({
      email: v.string(),
      making: v.boolean(),
      /** `hand`: somebody looks at it first. */
      next: v.picklist(['nothing', 'hand', 'goes', 'sign']),
      documents: v.array(v.object({ title: v.string(), signed: v.boolean(), mine: v.boolean() })),
    }),
  ),
})

/** By what a form is reached: an open link's token, or an answer's own. */
export const formParams = v.object({ token: v.pipe(v.string(), v.regex(/^[\w-]{20,64}$/)) })
