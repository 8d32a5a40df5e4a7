import { createContext, useContext, useMemo } from 'react'
import type * as v from 'valibot'
import type { proofSchema } from '#contract/template.ts'
import type { TemplateContent } from '#core/document/template.ts'
import type { Check } from '#core/checks/checks.ts'
import type { NameTypes } from '#core/expression/check.ts'
import { prepareTemplate, type ReadyTemplate } from '#core/merge/prepare.ts'
import { type Field, nameTypesInRepeat, type Outline } from '#core/outline/field.ts'
import type { Change } from '#web/areas/templates/draft/template-draft.ts'

export type Proof = v.InferOutput<typeof proofSchema>

/** What every part of the studio works on. */
export interface Studio {
  readonly templateId: string
  readonly content: TemplateContent
  readonly editable: boolean
  readonly change: Change
  /** Every field of the template, those that come by themselves included. */
  readonly all: Outline
  readonly checks: readonly Check[]
  readonly proof: Proof | null
  /** The source of the proof. */
  readonly sheetId: string | null
  readonly chooseSheet: (id: string | null) => void
  readonly row: number | null
  readonly chooseRow: (row: number | null) => void
  /** Names expressions may use, inside a repeat over a list or (null) outside. */
  readonly namesIn: (repeat: string | null) => NameTypes
  /** Fields condition rows may use, named as expressions name them. */
  readonly fieldsIn: (repeat: string | null) => readonly Field[]
  /** Shows merge fields as their values: of one agreement, whose values stand in its text. */
  readonly valued?: boolean
  /** Goes to a passage of the text. */
  readonly goTo: (passage: string) => void
}

const unused = () => undefined

/** Of a text that stands by itself: no proof beside it, nothing that reaches into it from elsewhere. */
export const STANDALONE = {
  proof: null,
  sheetId: null,
  chooseSheet: unused,
  row: null,
  chooseRow: unused,
  goTo: unused,
} as const

export const StudioContext = createContext<Studio | null>(null)

export function useStudio(): Studio {
  const studio = useContext(StudioContext)
  if (!studio) throw new Error('Outside of the studio.')
  return studio
}

/** What expressions may name, and what rows of conditions offer, among all fields of a template. */
export function useFieldScopes(all: Outline): Pick<Studio, 'namesIn' | 'fieldsIn'> {
  return useMemo(
    () => ({
      namesIn: (repeat) => nameTypesInRepeat(all, repeat),
      fieldsIn: (repeat) => [
        ...(all.find(({ name }) => name === repeat)?.items ?? []).map((item) => ({
          ...item,
          name: `item.${item.name}`,
        })),
        ...all,
      ],
    }),
    [all],
  )
}

/** The template compiled; null while it has faults. Only for what is open: compiling is not for every key. */
export function useReadyTemplate(): ReadyTemplate | null {
  const { content } = useStudio()
  return useMemo(() => {
    const prepared = prepareTemplate(content)
    return prepared.ok ? prepared.ready : null
  }, [content])
}
