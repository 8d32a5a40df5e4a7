import * as v from 'valibot'
import { filledSchema } from '#core/agreement/filled.ts'
import { GATES, PARTY_ACTS, STANDINGS } from '#core/ceremony/gates.ts'
import { CHECKS, PARTY_KINDS } from '#core/ceremony/parties.ts'
import { LANGUAGES } from '#core/languages/language.ts'
import { BLANK_KINDS } from '#core/document/tree.ts'
import { id, instant, shortText } from './basics.ts'
import { introductionSchema, mailAddress } from './sending.ts'

/** Somebody who signs in the bearer's place. */
export const handOverSchema = v.object({
  name: shortText,
  email: mailAddress,
  reason: v.pipe(v.string(), v.trim(), v.minLength(1, 'Say why.'), v.maxLength(500)),
})

/** A question of a party's; `passage`: the words it is about. */
export const partyAsks = v.object({
  text: v.pipe(v.string(), v.trim(), v.minLength(1, 'Write your question.'), v.maxLength(2000)),
  passage: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(300)), ''),
})

/** A code that was told or sent. */
export const codeSchema = v.object({ code: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(60)) })

/** A language of the page. */
export const languageChoice = v.object({ language: v.picklist(LANGUAGES) })

/** The token of a signing link, base64url of 32 bytes. */
export const tokenParams = v.object({ token: v.pipe(v.string(), v.regex(/^[\w-]{43}$/)) })

/** What a signing link leads to. Anything but `open` says why nothing can be signed here. */
export const signingSchema = v.object({
  /** What the pages are written in, BCP 47; values are shown on them so. */
  documentLanguage: v.string(),
  status: v.picklist(STANDINGS),
  /** The language they are spoken to in. */
  language: v.picklist(LANGUAGES),
  /** What is passed one after the other, and what may be done now (core/ceremony/gates.ts). */
  gates: v.array(v.object({ gate: v.picklist(GATES), passed: v.boolean() })),
  may: v.array(v.picklist(PARTY_ACTS)),
  /** What they have to show, and the end of the address that a code is sent to. */
  check: v.object({ kind: v.picklist(CHECKS), to: v.string() }),
  kind: v.picklist(PARTY_KINDS),
  /** Whose device it is, where somebody signs there in person. */
  atDeviceOf: v.nullable(v.string()),
  /** A spoken or filmed word of the sender's, with what is said in it. */
  introduction: v.nullable(introductionSchema),
  /** What the sender writes to all, and to them alone. */
  message: v.string(),
  alone: v.string(),
  questions: v.array(
    v.object({
      id,
      passage: v.string(),
      text: v.string(),
      askedAt: instant,
      answer: v.nullable(v.string()),
    }),
  ),
  name: v.string(),
  title: v.string(),
  from: v.string(),
  role: v.string(),
  signBy: v.nullable(instant),
  /** The day it ends on, where the sender is: ISO 8601. */
  signByDay: v.nullable(v.string()),
  consented: v.boolean(),
  pages: v.number(),
  blanks: v.array(
    v.object({
      id: v.string(),
      kind: v.picklist(BLANK_KINDS),
      label: v.string(),
      required: v.boolean(),
      page: v.number(),
      x: v.number(),
      y: v.number(),
      width: v.number(),
      height: v.number(),
      rules: v.object({
        preset: v.optional(v.string()),
        options: v.optional(v.array(v.string())),
        least: v.optional(v.number()),
        most: v.optional(v.number()),
        check: v.optional(v.string()),
        message: v.optional(v.string()),
        group: v.optional(v.object({ name: v.string(), least: v.number(), most: v.nullable(v.number()) })),
      }),
      options: v.array(v.object({ page: v.number(), x: v.number(), y: v.number() })),
    }),
  ),
  values: v.record(v.string(), filledSchema),
})

export type Signing = v.InferOutput<typeof signingSchema>

/** A blank with what was put into it. */
export const blankFill = v.object({
  values: v.pipe(
    v.record(v.pipe(v.string(), v.maxLength(120)), v.nullable(filledSchema)),
    v.check((values) => Object.keys(values).length <= 200, 'At most 200 blanks are filled at once.'),
  ),
})

/** Why a signer refuses. */
export const declineSchema = v.object({
  reason: v.pipe(v.string(), v.trim(), v.minLength(1, 'Say why.'), v.maxLength(2000)),
})

/** Whether theirs was the last signature. */
export const finishedSchema = v.object({ executed: v.boolean() })
