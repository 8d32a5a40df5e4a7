import { useSyncExternalStore } from 'react'
import type { DraftKeeper, DraftState } from './keeper.ts'

/** What is shown of a draft, renewed as it changes. */
export const useDraft = (keeper: DraftKeeper): DraftState =>
  useSyncExternalStore(keeper.subscribe, keeper.state)
