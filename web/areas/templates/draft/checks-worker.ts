import { checkTemplate } from '#core/checks/checks.ts'
import type { TemplateContent } from '#core/document/template.ts'

/** What the checks are asked: the newest content, and the names its source feeds. */
export interface ChecksAsked {
  readonly serial: number
  readonly content: TemplateContent
  readonly given: readonly string[] | null
}

// Reasoning over a whole template takes longer than a key may: it has a thread of its own.
self.onmessage = ({ data }: MessageEvent<ChecksAsked>) => {
  const checks = checkTemplate(data.content, data.given && new Set(data.given))
  self.postMessage({ serial: data.serial, checks })
}
