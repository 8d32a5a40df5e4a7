import * as v from 'valibot'
import { chainEntry, id, instant } from './basics.ts'

/** What a person may do; a person has several. */
export const RIGHTS = ['templates', 'runs', 'approve', 'send', 'rules', 'post room', 'settings'] as const
export type Right = (typeof RIGHTS)[number]

/** Somebody who works here, with their post and rights. */
export const personSchema = v.object({
  id,
  name: v.string(),
  email: v.string(),
  post: v.string(),
  rights: v.array(v.picklist(RIGHTS)),
})
export type Person = v.InferOutput<typeof personSchema>

/** Who is signed in, if anybody, and where. */
export const sessionSchema = v.object({
  person: v.nullable(personSchema),
  demo: v.boolean(),
  /** Null before the first run. Who is not signed in is told the name alone. */
  organisation: v.nullable(
    v.object({ name: v.string(), sender: v.string(), synonyms: v.array(v.array(v.string())) }),
  ),
})
/** Somebody whom the demo lets in by one click. */
export const demoPersonSchema = v.object({ name: v.string(), email: v.string(), post: v.string() })
/** Name and password. */
export const signInSchema = v.object({
  email: v.pipe(v.string(), v.maxLength(254)),
  password: v.pipe(v.string(), v.maxLength(200)),
})

/** A page of what was done to the installation, the newest first. */
export const installationTrailSchema = v.object({
  total: v.number(),
  entries: v.array(v.object(chainEntry)),
  verified: v.boolean(),
  problem: v.nullable(v.string()),
})

/** A mail in the post room. */
export const receivedMailSchema = v.object({
  id: v.number(),
  receivedAt: instant,
  from: v.string(),
  to: v.string(),
  subject: v.string(),
  read: v.boolean(),
})
/** The same with its text and attachments. */
export const receivedMailDetailSchema = v.object({
  ...receivedMailSchema.entries,
  text: v.string(),
  html: v.nullable(v.string()),
  attachments: v.array(
    v.object({ name: v.string(), mediaType: v.string(), size: v.number(), sha256: v.string() }),
  ),
})

/** A text handed to a gateway (server/post/texter.ts). */
export const textToSend = v.object({
  to: v.pipe(v.string(), v.minLength(1), v.maxLength(40)),
  text: v.pipe(v.string(), v.minLength(1), v.maxLength(2000)),
  reference: v.pipe(v.string(), v.minLength(1), v.maxLength(200)),
})
/** A text that came to a telephone. */
export const receivedTextSchema = v.object({
  id: v.number(),
  receivedAt: instant,
  to: v.string(),
  text: v.string(),
})
