/** Families that ship with the app; the page engine knows no others. */
export const FAMILIES = ['Source Serif 4', 'Source Sans 3'] as const
export type Family = (typeof FAMILIES)[number]

/** Lines that headings may have. */
export const HEADING_RULES = ['none', 'under titles'] as const

/** How documents look, apart from what they say. Lengths in points (1/72 inch), colours as `#rrggbb`. */
export interface Look {
  readonly textFamily: Family
  readonly headingFamily: Family
  /** Size of the text. */
  readonly size: number
  /** Distance between lines as a part of the size. */
  readonly leading: number
  readonly justified: boolean
  readonly ink: string
  readonly headingInk: string
  readonly margins: {
    readonly top: number
    readonly bottom: number
    readonly left: number
    readonly right: number
  }
  readonly headingRule: (typeof HEADING_RULES)[number]
  readonly letterhead: {
    /** File of the store (PNG, JPEG or SVG) and its width. */
    readonly logo: string | null
    readonly logoWidth: number
    readonly lines: readonly string[]
    readonly align: 'left' | 'center' | 'right'
  }
}

const noLetterhead = { logo: null, logoWidth: 90, lines: [], align: 'right' } as const

/** The looks every installation has; the first is taken where a template names none. */
export const finishedLooks: readonly { readonly id: string; readonly name: string; readonly look: Look }[] = [
  {
    id: 'book',
    name: 'Book',
    look: {
      textFamily: 'Source Serif 4',
      headingFamily: 'Source Serif 4',
      size: 11,
      leading: 0.74,
      justified: true,
      ink: '#20242B',
      headingInk: '#20242B',
      margins: { top: 72, bottom: 75.6, left: 75.6, right: 75.6 },
      headingRule: 'none',
      letterhead: noLetterhead,
    },
  },
  {
    id: 'office',
    name: 'Office',
    look: {
      textFamily: 'Source Sans 3',
      headingFamily: 'Source Sans 3',
      size: 10.5,
      leading: 0.7,
      justified: false,
      ink: '#20242B',
      headingInk: '#155E6B',
      margins: { top: 64, bottom: 72, left: 68, right: 68 },
      headingRule: 'under titles',
      letterhead: noLetterhead,
    },
  },
]

/** The look of a template that has chosen none. */
export const plainLook: Look = finishedLooks[0]!.look
