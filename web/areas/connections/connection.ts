import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'

export type Connection = Answer<Api['connections']>[number]
