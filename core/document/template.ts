import type { Outline } from '../outline/field.ts'
import type { Body, PlacedStyle } from './tree.ts'

/** Shapes that tell roles apart, with the role's letter; never colour alone. */
export const ROLE_SHAPES = ['circle', 'square', 'diamond', 'hexagon', 'triangle', 'drop'] as const
export type RoleShape = (typeof ROLE_SHAPES)[number]

/**
 * How a role finds its person. Names of a record rule are fields of the outline; with `list`, the names are fields of
 * that list's items, and each item is a person of the role.
 */
export type FillRule =
  | {
      readonly rule: 'record'
      readonly name: string
      readonly email: string
      readonly title: string | null
      readonly company?: string | null | undefined
      readonly phone?: string | null | undefined
      readonly list?: string | null | undefined
    }
  | {
      readonly rule: 'standing person'
      readonly name: string
      readonly email: string
      readonly title: string
      readonly company?: string | undefined
      readonly phone?: string | undefined
    }
  | { readonly rule: 'whoever sends' }
  | { readonly rule: 'ask' }

/** A role of a template: who has to sign, or to agree, and how whoever fills it is found. */
export interface SignerRole {
  readonly key: string
  readonly label: string
  readonly shape: RoleShape
  /** Who signs earlier has the lower number. */
  readonly order: number
  readonly fill: FillRule
  /** FEEL over the record: the role is there only where it is true. */
  readonly condition?: string | null | undefined
  /** The role falls away where its person is not named. */
  readonly optional?: boolean | undefined
}

/** How a document that nobody signs goes out: its words as the mail itself, or its pages attached to one. */
export const NOTICE_FORMS = ['mail text', 'attachment'] as const
export type NoticeForm = (typeof NOTICE_FORMS)[number]

/** How agreements of a template go out, if nobody says otherwise. */
export interface SendingDefaults {
  /** A notice: its roles receive it, and nobody signs. None: it is signed. */
  readonly notice?: NoticeForm | null | undefined
  /** Patterns over the outline's fields, `{{buyer.name}}`. */
  readonly agreementName: string
  readonly fileName: string
  readonly subject: string
  readonly message: string
  /** Whole days from sending, counted in the sender's calendar. */
  readonly signByDays: number
  /** Days after sending, and days before the sign-by date, on which those who have not signed are reminded. */
  readonly remindAfter?: readonly number[] | undefined
  readonly remindBefore?: readonly number[] | undefined
  /** Days after sending on which those are reminded who have not opened it. */
  readonly remindUnopened?: readonly number[] | undefined
  /** Addresses (patterns) that get the executed document. */
  readonly copies?: readonly string[] | undefined
}

/** Tick blanks that are counted together: at least so many, at most so many of them (null: all). */
export interface TickGroup {
  readonly name: string
  readonly least: number
  readonly most: number | null
}

/** Sizes of paper: 8.5 by 11 inches, and ISO 216 A4. */
export const PAPERS = ['us-letter', 'a4'] as const

/** Header and footer are patterns; besides fields they know `{{page}}`, `{{pages}}`, `{{number}}` and `{{title}}`. */
export interface PageSetup {
  readonly paper: (typeof PAPERS)[number]
  readonly header: string
  readonly footer: string
}

/** The page of a template that has set none. */
export const plainPage: PageSetup = {
  paper: 'us-letter',
  header: '',
  footer: '{{number}} || Page {{page}} of {{pages}}',
}

/** How words are set in a placement that says nothing of it. */
export const plainStyle: PlacedStyle = {
  font: 'sans',
  size: 10,
  align: 'left',
  least: 6,
  lines: 1,
  comb: null,
}

/** Everything a template says; an edition is this, frozen. */
export interface TemplateContent {
  readonly title: string
  /** BCP 47 tag of the wording; formats follow it. */
  readonly language: string
  readonly outline: Outline
  readonly roles: readonly SignerRole[]
  /** Roles that initial every page. */
  readonly initialsOnEveryPage: readonly string[]
  readonly document: Body
  readonly sending: SendingDefaults
  readonly page?: PageSetup | undefined
  /** Id of the document look; none: the first finished one. */
  readonly look?: string | null | undefined
  readonly tickGroups?: readonly TickGroup[] | undefined
}
