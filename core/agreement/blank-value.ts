import { compileExpression } from '../expression/compile.ts'
import { number, type Value } from '../expression/values/value.ts'
import type { Language } from '../languages/language.ts'
import type { Speaker } from '../languages/speak.ts'
import { describeReadings, readTyped, shownIn } from '../text/typed-number.ts'
import { signatureProblem, textProblem } from './signature.ts'
import type { Filled } from './filled.ts'
import type { PlacedBlank } from './signing.ts'

/** What is wrong with a value as it was typed on a page of the speaker's language, to say beside the blank; null where nothing is. */
export function valueProblem(
  blank: Pick<PlacedBlank, 'kind' | 'label' | 'rules'>,
  value: Filled,
  { say, language }: Pick<Speaker, 'say' | 'language'>,
): string | null {
  const { rules = {}, kind, label } = blank
  if (value.kind === 'choice') {
    const { options: offered = [], most = 1 } = rules
    const chosen = new Set(value.chosen)
    if ([...chosen].some((at) => !offered[at])) return say('value.noOption', { label })
    if (chosen.size > most) return say('value.most', { label, count: most })
  }
  if (value.kind === 'typed' || value.kind === 'drawn') return signatureProblem(value, say)
  if (value.kind !== 'text') return null
  const unseen = textProblem(label, value.text, say)
  if (unseen) return rules.message ?? unseen
  const typed = kind === 'number' ? readTyped(value.text, language) : null
  if (typed && !typed.ok && typed.readings) {
    const [one, other] = describeReadings(typed.readings, language)
    return say('value.twoReadings', { text: value.text, one, other })
  }
  const amount = typed?.ok ? typed.value : null
  if (typed && amount === null) return rules.message ?? say('value.notNumber', { text: value.text })
  if (!rules.check) return null
  const compiled = compileExpression(rules.check)
  const input: Value = kind === 'number' ? number(amount!) : value.text
  const holds = compiled.ok && compiled.expression.evaluate(new Map([['value', input]])) === true
  return holds ? null : (rules.message ?? say('value.notFit', { text: value.text }))
}

/**
 * A value as it stands in the document, whose language may be another than the page's: a number gets the document's decimal sign.
 * What cannot be read stays as it was typed.
 */
export function valueAsShown<V extends Filled>(
  { kind }: Pick<PlacedBlank, 'kind'>,
  value: V,
  page: Language,
  document: string,
): V {
  if (kind !== 'number' || value.kind !== 'text') return value
  const read = readTyped(value.text, page)
  return read.ok ? { ...value, text: shownIn(read.value, document) } : value
}
