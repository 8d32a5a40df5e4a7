import { useEffect, useRef, useState } from 'react'
import type { Directory } from '#core/approvers/directory.ts'
import type { TemplateNames } from '#core/rules/names.ts'
import type { RuleTable } from '#core/rules/table.ts'
import type { AnalysisAsked, AnalysisTold } from './analysis-worker.ts'

export interface World {
  readonly templates: readonly TemplateNames[]
  readonly directory: Directory
}

/** What is wrong with a table, worked out beside the typing; the last result stays until the next is there. */
export function useAnalysis(table: RuleTable, world: World | undefined): AnalysisTold | null {
  const [told, setTold] = useState<AnalysisTold | null>(null)
  const worker = useRef<Worker | null>(null)
  const serial = useRef(0)
  const known = useRef<World | undefined>(undefined)
  useEffect(() => {
    const made = new Worker(new URL('./analysis-worker.ts', import.meta.url), { type: 'module' })
    made.onmessage = ({ data }: MessageEvent<AnalysisTold>) => {
      if (data.serial === serial.current) setTold(data)
    }
    worker.current = made
    known.current = undefined
    return () => {
      made.terminate()
      worker.current = null
    }
  }, [])
  useEffect(() => {
    if (!world) return
    const asked: AnalysisAsked = {
      serial: ++serial.current,
      table,
      ...(known.current === world ? {} : { world }),
    }
    known.current = world
    worker.current?.postMessage(asked)
  }, [table, world])
  return told
}
