import type { Speaker } from '#core/languages/speak.ts'
import type { Blank } from './fill-store.ts'

/** What was typed into a place: what is wrong with it, and the text that it will stand as in the document. */
export interface PlaceText {
  readonly problem: string | null
  readonly text: string
}

/** Expressions are loaded only for a place that has something to check. `document`: its language, BCP 47. */
export async function readPlaceText(
  blank: Blank,
  text: string,
  speaker: Speaker,
  document: string,
): Promise<PlaceText> {
  if (blank.kind !== 'number' && !blank.rules.check) return { problem: null, text }
  const { valueAsShown, valueProblem } = await import('#core/agreement/blank-value.ts')
  const value = { kind: 'text', text } as const
  return {
    problem: valueProblem(blank, value, speaker),
    text: valueAsShown(blank, value, speaker.language, document).text,
  }
}
