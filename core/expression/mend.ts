import { checkExpression, type NameTypes } from './check.ts'
import { compileExpression } from './compile.ts'

const UNITS: Readonly<Record<string, (count: string) => string>> = {
  day: (count) => `P${count}D`,
  week: (count) => `P${Number(count) * 7}D`,
  month: (count) => `P${count}M`,
  year: (count) => `P${count}Y`,
  hour: (count) => `PT${count}H`,
  minute: (count) => `PT${count}M`,
}

const QUOTED = /"(?:[^"\\]|\\.)*"/g

/** Applies to what stands outside of texts in quotation marks. */
function outside(text: string, change: (part: string) => string): string {
  let made = ''
  let from = 0
  for (const { 0: quoted, index } of text.matchAll(QUOTED)) {
    made += change(text.slice(from, index)) + quoted
    from = index + quoted.length
  }
  return made + change(text.slice(from))
}

/** What people write who come from a spreadsheet or a program, as FEEL (OMG DMN 1.3, chapter 10) says it. */
function asFeel(text: string, names: NameTypes): string {
  const isDay = (name: string) => ['date', 'date time'].includes(String(names.get(name)))
  return outside(
    text
      .trim()
      .replace(/^=\s*/, '')
      .replace(/'([^'"\\]{0,200})'/g, '"$1"'),
    (part) =>
      part
        .replace(
          /\b(\d{1,4})\s+(day|week|month|year|hour|minute)s?\b/gi,
          (_, count: string, unit: string) => {
            return `duration("${UNITS[unit.toLowerCase()]!(count)}")`
          },
        )
        .replace(/\b(\d+(?:\.\d+)?)\s*%/g, '$1 / 100')
        .replace(/&&/g, ' and ')
        .replace(/\|\|/g, ' or ')
        .replace(/==/g, '=')
        .replace(/<>/g, '!=')
        .replace(/(?<=[^&])&(?=[^&])/g, '+')
        .replace(
          /([\p{L}_][\p{L}\p{N}_.]{0,100})(\s*)([+-])\s*(\d{1,5})\b(?!\s*[*/.])/gu,
          (whole, name: string, space: string, sign: string, count: string) =>
            isDay(name) ? `${name}${space}${sign} duration("P${count}D")` : whole,
        ),
  )
}

/**
 * What somebody meant by an expression that is none, or of types that do not go together: one that has no fault. Null
 * where that is not known; nothing is ever changed without being asked for.
 */
export function meantBy(text: string, names: NameTypes): string | null {
  if (text.length > 2000) return null
  const made = asFeel(text, names).replace(/ {2,}/g, ' ').trim()
  if (made === text.trim() || made === '') return null
  const compiled = compileExpression(made)
  return compiled.ok && checkExpression(compiled.expression.syntax, names).length === 0 ? made : null
}
