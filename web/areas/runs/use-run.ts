import { useMutation, useQueryClient } from '@tanstack/react-query'
import { createContext, useContext } from 'react'
import type { Api, RouteName } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { RunProgress, RunSummary } from '#contract/run.ts'
import { call, problemText } from '#web/frame/client.ts'
import type { Sent } from '#web/frame/client.ts'
import { useNotice } from '#web/frame/notices.tsx'

export type RunRow = Answer<Api['runRows']>[number]
export type Wording = Answer<Api['wordings']>[number]
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
  readonly wordings: readonly Wording[]
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

const RUN_KEYS = [
  'run',
  'runs',
  'runRows',
  'wordings',
  'runSetup',
  'outputs',
  'rowChanges',
  'rowProof',
  'sheetRows',
  'sheet',
]

/** Renews all that is known of runs. */
export function useRenewRun(): () => void {
  const queries = useQueryClient()
  return () => {
    for (const key of RUN_KEYS) void queries.invalidateQueries({ queryKey: [key] })
  }
}

/** A writing call about a run: what it changed is read again, a refusal is told. */
export function useRunCall<N extends RouteName>(name: N, onDone?: (answer: Answer<Api[N]>) => void) {
  const say = useNotice()
  const renew = useRenewRun()
  return useMutation({
    mutationFn: (sent: Sent) => call(name, sent),
    onSuccess: (answer) => {
      renew()
      onDone?.(answer)
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
}
