import { useEffect } from 'react'
import type { RuleTableAnswer, RuleTableContent } from '#contract/rule.ts'
import type { RuleTable } from '#core/rules/table.ts'
import { call } from '#web/api/client.ts'
import { queries } from '#web/api/queries.ts'
import { draftServer } from '#web/drafts/draft-server.ts'
import { DraftStore } from '#web/drafts/draft-store.ts'
import { OpenDrafts } from '#web/drafts/open-drafts.ts'

/** A rule table's draft. */
export type TableDraft = DraftStore<RuleTable>

const open = new OpenDrafts<RuleTable>({ saves: true })

const serverOf = (id: string) =>
  draftServer<RuleTable>({
    async save(table, version) {
      const body = { version, draft: table as RuleTableContent }
      const saved = await call('saveRuleDraft', { params: { id }, body, goesOn: true })
      return { version: saved.version, at: new Date().toISOString() }
    },
    async read() {
      const { draft, version } = await call('ruleTable', { params: { id } })
      return { content: draft, version, at: new Date().toISOString(), by: null }
    },
  })

/** The draft of a table, as it was left if it was open. */
export function draftOf({ id, draft, version }: RuleTableAnswer): TableDraft {
  const kept = { content: draft, version, at: new Date().toISOString() }
  return open.of(id, kept, () => new DraftStore<RuleTable>(kept, serverOf(id)))
}

/** What is written is saved when its screen is left for another. */
export function useSavedOnLeaving(draft: TableDraft, id: string): void {
  useEffect(
    () => () =>
      void draft.settle().then(() => queries.invalidateQueries({ queryKey: ['ruleTable', { id }] })),
    [draft, id],
  )
}
