import { createContext, useContext } from 'react'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { RunProgress, RunSummary } from '#contract/run.ts'

export type RunRow = Answer<Api['runRows']>[number]
export type RunWording = Answer<Api['wordings']>[number]
export type Setup = Answer<Api['runSetup']>
export type Output = Answer<Api['outputs']>[number]

type RunField = Setup['fields'][number]

/** A field's name as answers and problems have it: that of a list's field behind the list's. */
export const fullName = ({ list, name }: RunField): string => (list === null ? name : `${list}.${name}`)

/** The field a problem is about, of a list whichever item (`lots[2].price`). */
export const fieldNamed = (setup: Setup | null, name: string): RunField | undefined =>
  setup?.fields.find((field) => fullName(field) === name.replace(/\[\d*\]/, ''))

/** What every part of a run's page works on. */
export interface OpenRun {
  readonly run: RunSummary
  readonly progress: RunProgress
  readonly rows: readonly RunRow[]
  readonly wordings: readonly RunWording[]
  readonly setup: Setup | null
  readonly may: boolean
  /** The row in the proof. */
  readonly row: number | null
  readonly show: (row: number) => void
}

export const RunContext = createContext<OpenRun | null>(null)

export function useRun(): OpenRun {
  const open = useContext(RunContext)
  if (!open) throw new Error('Outside of a run.')
  return open
}
