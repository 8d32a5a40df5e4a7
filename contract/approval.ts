import * as v from 'valibot'
import { count, id, instant, shortText } from './basics.ts'

const text = (missing: string) => v.pipe(v.string(), v.trim(), v.minLength(1, missing), v.maxLength(2000))

/** Several approvals at once, each for itself. */
export const approveMany = v.object({
  steps: v.pipe(v.array(v.object({ agreement: id, step: id })), v.minLength(1), v.maxLength(500)),
})
/** What became of them; those refused say why. */
export const approvedMany = v.object({
  approved: count,
  refused: v.array(v.object({ number: v.string(), problem: v.string() })),
})
/** Whom one approval is handed to. */
export const handOverSchema = v.object({
  to: id,
  note: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(2000)), ''),
})
/** A question, and an answer. */
export const askSchema = v.object({ text: text('Write the question.') })
export const answerSchema = v.object({ text: text('Write the answer.') })

const wordChange = v.object({ kind: v.picklist(['same', 'added', 'removed']), text: v.string() })
/** A paragraph that differs, word by word. */
const changedParagraph = v.object({ words: v.array(wordChange) })
/** What differs from the standard wording, and from the last agreement with this customer. */
export const differencesSchema = v.object({
  standard: v.nullable(v.array(changedParagraph)),
  last: v.nullable(
    v.object({
      id,
      number: v.string(),
      name: v.string(),
      at: instant,
      values: v.array(v.object({ label: v.string(), before: v.string(), after: v.string() })),
      paragraphs: v.array(changedParagraph),
    }),
  ),
})
export type Differences = v.InferOutput<typeof differencesSchema>

const day = v.pipe(v.string(), v.isoDate())
/** A time away, both days included. */
export const absenceChange = v.pipe(
  v.object({ person: v.optional(id), from: day, to: day, standIn: v.nullable(id) }),
  v.check(({ from, to }) => from <= to, 'The last day comes before the first.'),
)
export const absenceSchema = v.object({
  id,
  person: v.object({ id, name: v.string() }),
  from: v.string(),
  to: v.string(),
  standIn: v.nullable(v.object({ id, name: v.string() })),
  mine: v.boolean(),
})
/** Who is away and who stands in; how whoever asks hears of approvals. */
export const absencesSchema = v.object({
  today: v.string(),
  mail: v.picklist(['each', 'daily']),
  absences: v.array(absenceSchema),
  colleagues: v.array(
    v.object({ id, name: shortText, post: v.string(), approves: v.boolean(), left: v.boolean() }),
  ),
})
