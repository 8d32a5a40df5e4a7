import type { IntakeForm } from '#core/intake/form.ts'
import { keepHere } from '#web/frame/kept-here.ts'
import { FormDraft } from './form-draft.ts'

const drafts = new Map<string, FormDraft>()

/** The draft of a form: what somebody changed and did not keep is there again when they come back to it. */
export function draftOf(id: string, form: IntakeForm, version: number): FormDraft {
  const open = drafts.get(id)
  if (open?.read().changed) return open
  const draft = new FormDraft(form, version)
  drafts.set(id, draft)
  return draft
}

keepHere({
  unsaved: () => [...drafts.values()].some((draft) => draft.read().changed),
  forget: () => drafts.clear(),
})
