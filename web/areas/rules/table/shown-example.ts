import { compileExpression } from '#core/expression/compile.ts'
import type { RuleNames } from '#core/rules/names.ts'

/** Values of a case as one would say them: "Total $40,000.00, Land leased no". */
export const shownExample = (values: Readonly<Record<string, string>>, names: RuleNames): string =>
  Object.entries(values)
    .map(([expression, text]) => {
      const compiled = compileExpression(text)
      const value = compiled.ok ? compiled.expression.evaluate(new Map()) : null
      return `${names.words.label(expression)} ${names.words.show(value, expression)}`
    })
    .join(', ')
