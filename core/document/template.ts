import type { Outline } from '../outline/field.ts'
import type { DocumentTree } from './tree.ts'

/** Shapes that tell roles apart, with the role's letter; never colour alone. */
export const ROLE_SHAPES = ['circle', 'square', 'diamond', 'hexagon', 'triangle', 'drop'] as const
export type RoleShape = (typeof ROLE_SHAPES)[number]

/** How a role finds its person. `name`, `email` and `title` of a record rule are field names of the outline. */
export type FillRule =
  | { readonly rule: 'record'; readonly name: string; readonly email: string; readonly title: string | null }
  | {
      readonly rule: 'standing person'
      readonly name: string
      readonly email: string
      readonly title: string
    }

export interface SignerRole {
  readonly key: string
  readonly label: string
  readonly shape: RoleShape
  /** Who signs earlier has the lower number. */
  readonly order: number
  readonly fill: FillRule
}

export interface SendingDefaults {
  /** Patterns over the outline's fields, `{{grower.name}}`. */
  readonly agreementName: string
  readonly fileName: string
  readonly subject: string
  readonly message: string
  /** Whole days from sending, counted in the sender's calendar. */
  readonly signByDays: number
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
  readonly document: DocumentTree
  readonly sending: SendingDefaults
}
