import { compileExpression } from '../expression/compile.ts'
import { number } from '../expression/values/value.ts'
import type { Value } from '../expression/values/value.ts'
import type { Say } from '../languages/speak.ts'
import { signatureProblem, textProblem } from './signature.ts'
import type { Filled, PlacedBlank } from './signing.ts'

/** What is wrong with a value, to say beside the blank; null where nothing is. */
export function valueProblem(
  blank: Pick<PlacedBlank, 'kind' | 'label' | 'rules'>,
  value: Filled,
  say: Say,
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
  const amount = kind === 'number' ? readFigure(value.text) : null
  if (kind === 'number' && amount === null)
    return rules.message ?? say('value.notNumber', { text: value.text })
  if (!rules.check) return null
  const compiled = compileExpression(rules.check)
  const input: Value = kind === 'number' ? number(amount!) : value.text
  const holds = compiled.ok && compiled.expression.evaluate(new Map([['value', input]])) === true
  return holds ? null : (rules.message ?? say('value.notFit', { text: value.text }))
}

/** A figure as typed, with commas or blanks between thousands. */
const readFigure = (text: string): string | null => {
  const plain = text.trim().replace(/(?<=\d)[,\s](?=\d{3}(\D|$))/g, '')
  return /^-?\d{1,30}(\.\d{1,20})?$/.test(plain) ? plain : null
}
