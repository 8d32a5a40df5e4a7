import { evaluateSyntax, pathName } from './compile.ts'
import { children, type Syntax } from './syntax.ts'
import type { Comparator } from './values/operators.ts'
import { type Context, isContext, isList, toText, type Value } from './values/value.ts'

/** Names and values as the reader knows them; `name` is a full dotted path. */
export interface InWords {
  readonly label: (name: string) => string
  readonly show: (value: Value, name: string | null) => string
}

const plain: InWords = { label: (name) => name, show: (value) => (value === null ? 'empty' : toText(value)) }

const phrases: Record<Comparator, readonly [holds: string, fails: string]> = {
  '=': ['is', 'is not'],
  '!=': ['is not', 'is'],
  '<': ['is under', 'is not under'],
  '<=': ['is at most', 'is over'],
  '>': ['is over', 'is not over'],
  '>=': ['is at least', 'is under'],
}

/**
 * Why a condition holds or not, in words: "total 82,400.00 is over 80,000.00".
 * Of a conjunction that fails, only the parts that fail are told; of a disjunction that holds, those that hold.
 */
export function explain(syntax: Syntax, text: string, record: Context, wording: InWords = plain): string {
  const evaluate = (node: Syntax): Value => evaluateSyntax(node, record)
  const tell = (node: Syntax): string => {
    if (node.kind === 'and' || node.kind === 'or') {
      const parts = [node.left, node.right].map((side) => ({ side, holds: evaluate(side) === true }))
      const telling = parts.filter(({ holds }) => holds === (node.kind === 'or'))
      return (telling.length ? telling : parts).map(({ side }) => tell(side)).join(' and ')
    }
    const holds = evaluate(node) === true
    if (node.kind === 'comparison') {
      const field = pathName(node.left)
      if (field !== null) {
        const verb = phrases[node.operator][holds ? 0 : 1]
        const left = evaluate(node.left)
        const other = evaluate(node.right)
        // Against nothing, or with nothing: what is there or not is all there is to say.
        if (other === null || left === null)
          return `${wording.label(field)} is ${left === null ? 'empty' : 'filled'}`
        const right = wording.show(other, field)
        if (typeof left === 'boolean') return `${wording.label(field)} ${left ? 'is true' : 'is not true'}`
        return `${wording.label(field)} ${wording.show(left, field)} ${verb} ${right}`
      }
    }
    return `${text.slice(node.from, node.to)} is ${holds ? 'true' : 'not true'}`
  }
  return tell(syntax)
}

/** A formula with each name replaced by its value: "quantity * price" as "180 * $195.00". Local names stay as they are. */
export function withValues(syntax: Syntax, text: string, record: Context, wording: InWords = plain): string {
  const names: { from: number; to: number; shown: string }[] = []
  const visit = (node: Syntax): void => {
    const name = pathName(node)
    if (name === null) return children(node).forEach(visit)
    const value = evaluateSyntax(node, record)
    if (value !== null && !isList(value) && !isContext(value))
      names.push({ from: node.from, to: node.to, shown: wording.show(value, name) })
  }
  visit(syntax)
  let told = text
  for (const { from, to, shown } of names.sort((a, b) => b.from - a.from))
    told = told.slice(0, from) + shown + told.slice(to)
  return told
}
