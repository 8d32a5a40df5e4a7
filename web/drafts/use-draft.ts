import { useStore } from 'zustand'
import type { DraftState, DraftStore } from './draft-store.ts'

/** What is shown of a draft, renewed as it changes. */
export const useDraft = <T>(draft: DraftStore<T>): DraftState<T> => useStore(draft.shown)
