import { useEffect, useSyncExternalStore } from 'react'
import { call } from '#web/api/client.ts'
import { queries } from '#web/api/queries.ts'
import { keepHere } from '#web/frame/kept-here.ts'
import type { RuleTableAnswer } from '#contract/rule.ts'
import { type KeptTable, TableStore } from './table-store.ts'

/** Keepers outlive the screen: coming back brings what could be undone too. */
const keepers = new Map<string, TableStore>()
keepHere({
  unsaved: () => [...keepers.values()].some((keeper) => keeper.state().saving.kind !== 'saved'),
  settle: () => Promise.all([...keepers.values()].map((keeper) => keeper.settle())),
  forget: () => keepers.clear(),
})

export function keeperOf(table: Pick<RuleTableAnswer, 'id' | 'draft' | 'version'>): TableStore {
  const known = keepers.get(table.id)
  if (known && (known.state().version >= table.version || known.state().saving.kind !== 'saved')) return known
  const made = new TableStore(
    {
      save: (version, draft) =>
        call('saveRuleDraft', { params: { id: table.id }, body: { version, draft }, goesOn: true }),
      after: (milliseconds, act) => {
        const timer = setTimeout(act, milliseconds)
        return () => clearTimeout(timer)
      },
    },
    table.draft,
    table.version,
  )
  keepers.set(table.id, made)
  return made
}

export const useKeptTable = (keeper: TableStore): KeptTable =>
  useSyncExternalStore(keeper.subscribe, keeper.state)

/** What is written is saved when its screen is left for another. */
export function useSavedOnLeaving(keeper: TableStore, id: string): void {
  useEffect(
    () => () =>
      void keeper.settle().then(() => queries.invalidateQueries({ queryKey: ['ruleTable', { id }] })),
    [keeper, id],
  )
}
