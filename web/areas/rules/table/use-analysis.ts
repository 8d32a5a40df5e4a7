import { useEffect, useRef, useState } from 'react'
import type { Directory } from '#core/approvers/directory.ts'
import type { TemplateNames } from '#core/rules/names.ts'
import type { RuleTable } from '#core/rules/table.ts'
import type { AnalysisAsked, AnalysisTold } from './analysis-worker.ts'

export interface World {
  readonly templates: readonly TemplateNames[]
  readonly directory: Directory
}

/** Milliseconds after which an analysis that nobody wants any more is ended rather than waited for. */
const PATIENCE = 250

/** A thread that looks through tables, and what it is at. */
class Analyst {
  private readonly worker = new Worker(new URL('./analysis-worker.ts', import.meta.url), { type: 'module' })
  private world: World | null = null
  private asked = 0
  private answered = 0
  private since = 0

  constructor(onTold: (told: AnalysisTold) => void) {
    this.worker.onmessage = ({ data }: MessageEvent<AnalysisTold>) => {
      this.answered = data.serial
      onTold(data)
    }
  }

  /** Whether it is at an older table, and has been for long. */
  get lags(): boolean {
    return this.answered !== this.asked && performance.now() - this.since > PATIENCE
  }

  ask(serial: number, table: RuleTable, world: World): void {
    if (this.answered === this.asked) this.since = performance.now()
    this.asked = serial
    const asked: AnalysisAsked = { serial, table, ...(this.world === world ? {} : { world }) }
    this.world = world
    this.worker.postMessage(asked)
  }

  end(): void {
    this.worker.onmessage = null
    this.worker.terminate()
  }
}

/**
 * What is wrong with a table, worked out beside the typing; the last result stays until the next is there, and `current` tells
 * whether it is about the table as it stands. A thread that is still at a large table of before is ended.
 */
export function useAnalysis(
  table: RuleTable,
  world: World | undefined,
): { readonly told: AnalysisTold | null; readonly current: boolean } {
  const [told, setTold] = useState<{ readonly told: AnalysisTold; readonly of: RuleTable } | null>(null)
  const analyst = useRef<Analyst | null>(null)
  const serial = useRef(0)
  const newest = useRef(table)
  useEffect(() => {
    newest.current = table
    if (!world) return
    const onTold = (data: AnalysisTold) => {
      if (data.serial === serial.current) setTold({ told: data, of: newest.current })
    }
    if (analyst.current?.lags) {
      analyst.current.end()
      analyst.current = null
    }
    analyst.current ??= new Analyst(onTold)
    analyst.current.ask(++serial.current, table, world)
  }, [table, world])
  useEffect(
    () => () => {
      analyst.current?.end()
      analyst.current = null
    },
    [],
  )
  return { told: told?.told ?? null, current: told?.of === table }
}
