import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'

export type Aftermath = Answer<Api['aftermath']>
