import type { IntakeForm } from '#core/intake/form.ts'
import { DraftStore } from '#web/drafts/draft-store.ts'
import { OpenDrafts } from '#web/drafts/open-drafts.ts'

/** An intake form's draft: saved by whoever presses the button, since respondents see it from then on. */
export type FormDraft = DraftStore<IntakeForm>

const open = new OpenDrafts<IntakeForm>({ saves: false })

/** The draft of a form: what somebody changed and did not save is there again when they come back to it. */
export function draftOf(id: string, content: IntakeForm, version: number): FormDraft {
  const kept = { content, version, at: '' }
  return open.of(id, kept, () => new DraftStore<IntakeForm>(kept, null))
}
