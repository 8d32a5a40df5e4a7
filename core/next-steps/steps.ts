import { keysOf } from '../keys-of.ts'

/** Moments of an agreement that something can follow. */
export const MOMENTS = ['executed', 'delivered', 'out', 'declined', 'lapsed', 'withdrawn'] as const

/** The moments that come: nobody signs a notice, and what is signed is not delivered. The usual one first. */
export const momentsOf = (notice: boolean): readonly Moment[] =>
  notice ? ['delivered', 'withdrawn'] : MOMENTS.filter((each) => each !== 'delivered')
export type Moment = (typeof MOMENTS)[number]

/** Units of the time that a step waits. */
export const DELAY_UNITS = ['hours', 'days', 'business days'] as const

/** How long after the moment a step is due; days end at the same time of day, in the organisation's zone. */
export interface Delay {
  readonly count: number
  readonly unit: (typeof DELAY_UNITS)[number]
}

/** Which fields of the next document a bill is written from besides its priced list. */
export interface BillFields {
  /** The buyer's name and postal address. */
  readonly name: string
  readonly address: string
  /** When it is to be paid; null: no day is named. */
  readonly due: string | null
  /** ISO 3166-1 alpha-2, of seller and buyer. */
  readonly sellerCountry: string
  readonly buyerCountry: string
}

/** What a step does, by its kind. Texts may have merge fields of the agreement's template in them: `{{buyer.name}}`. */
export interface StepKinds {
  /** The document goes to the agreement's record, under a name. */
  'file to the record': { readonly name: string }
  /** The document goes to a folder of the settings, under a name with `/` between folders. */
  'file to a folder': { readonly folder: string; readonly name: string }
  /** People who get it only now. */
  mail: {
    readonly to: string
    readonly subject: string
    readonly text: string
    /** Whether the document goes along. */
    readonly attach: boolean
  }
  /** A program of the settings is told, with the agreement's values. */
  'tell a program': { readonly program: string }
  /** The customer system that the record came from gets a status, a link and the document. */
  'tell the customer system': { readonly status: string; readonly link: boolean; readonly file: boolean }
  /** Somebody has something to do, so many days after. */
  'follow-up': { readonly person: string; readonly text: string; readonly days: number }
  /** A field of the agreement's record, or of its customer, gets a value: FEEL. */
  'change the record': { readonly of: 'record' | 'customer'; readonly field: string; readonly value: string }
  /** Another document from the same values: an invoice, say, with a number of its own series. */
  'next document': {
    readonly template: string
    readonly send: boolean
    readonly bill: BillFields | null
  }
}
export type StepKind = keyof StepKinds

const OFFERED: Readonly<Record<StepKind, true>> = {
  'file to the record': true,
  'file to a folder': true,
  mail: true,
  'tell a program': true,
  'tell the customer system': true,
  'follow-up': true,
  'change the record': true,
  'next document': true,
}
/** Every kind, in the order in which they are offered. */
export const STEP_KINDS = keysOf(OFFERED)

interface Common {
  readonly id: string
  readonly on: Moment
  /** FEEL over the agreement's values; empty: always. */
  readonly when: string
  readonly delay: Delay
  /** Who is told if it fails. */
  readonly tell: string
}

/** A step of one kind. */
export type StepOf<K extends StepKind> = Common & { readonly kind: K } & StepKinds[K]
/** A step of any kind. */
export type Step = { readonly [K in StepKind]: StepOf<K> }[StepKind]

/** The most steps that may follow. */
export const MOST_STEPS = 40

/** What a step does, in a few words; `named`: what ids stand for. */
export function describeStep(step: Step, named: (id: string) => string): string {
  switch (step.kind) {
    case 'file to the record':
      return `file it to the record as ${step.name}`
    case 'file to a folder':
      return `file it to ${named(step.folder)} as ${step.name}`
    case 'mail':
      return `write to ${step.to}: ${step.subject}`
    case 'tell a program':
      return `tell ${named(step.program)}`
    case 'tell the customer system':
      return `tell the customer system: ${[step.status, step.link ? 'a link' : '', step.file ? 'the document' : ''].filter(Boolean).join(', ')}`
    case 'follow-up':
      return `${named(step.person)}: ${step.text}`
    case 'change the record':
      return `${step.of === 'customer' ? 'the customer’s' : 'the record’s'} ${step.field} becomes ${step.value}`
    case 'next document':
      return `make ${named(step.template)}${step.bill ? ', also as data for bookkeeping' : ''}${step.send ? ', and send it' : ''}`
  }
}
