import type { BuiltIn } from './functions/built-in.ts'
import { contextFunctions } from './functions/contexts.ts'
import { contractFunctions } from './functions/contracts.ts'
import { dateFunctions } from './functions/dates.ts'
import { listFunctions, logicFunctions } from './functions/lists.ts'
import { numberFunctions } from './functions/numbers.ts'
import { rangeFunctions } from './functions/ranges.ts'
import { textFunctions } from './functions/texts.ts'

export type { BuiltIn } from './functions/built-in.ts'

/** All built-ins by name. Sources: DMN 1.3 10.3.4; those of `functions/contracts.ts` are ours. */
export const builtIns: ReadonlyMap<string, BuiltIn> = new Map(
  Object.entries({
    ...dateFunctions,
    ...numberFunctions,
    ...textFunctions,
    ...logicFunctions,
    ...listFunctions,
    ...contextFunctions,
    ...rangeFunctions,
    ...contractFunctions,
  }),
)
