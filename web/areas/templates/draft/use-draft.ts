import { useSyncExternalStore } from 'react'
import type { DraftStore, DraftState } from './draft-store.ts'

/** What is shown of a draft, renewed as it changes. */
export const useDraft = (keeper: DraftStore): DraftState =>
  useSyncExternalStore(keeper.subscribe, keeper.state)
