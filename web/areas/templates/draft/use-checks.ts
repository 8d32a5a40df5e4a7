import { useEffect, useRef, useState } from 'react'
import type { Check } from '#core/checks/checks.ts'
import type { TemplateContent } from '#core/document/template.ts'
import type { ChecksAsked } from './checks-worker.ts'

/** The checks of a draft, worked out beside the writing; until new ones are there the last ones stay. */
export function useChecks(
  content: TemplateContent,
  mapping: Readonly<Record<string, string>> | null,
): readonly Check[] {
  const [checks, setChecks] = useState<readonly Check[]>([])
  const worker = useRef<Worker | null>(null)
  const serial = useRef(0)
  useEffect(() => {
    const made = new Worker(new URL('./checks-worker.ts', import.meta.url), { type: 'module' })
    made.onmessage = ({ data }: MessageEvent<{ serial: number; checks: readonly Check[] }>) => {
      if (data.serial === serial.current) setChecks(data.checks)
    }
    worker.current = made
    return () => {
      made.terminate()
      worker.current = null
    }
  }, [])
  useEffect(() => {
    const asked: ChecksAsked = {
      serial: ++serial.current,
      content,
      given: mapping && Object.keys(mapping),
    }
    worker.current?.postMessage(asked)
  }, [content, mapping])
  return checks
}
