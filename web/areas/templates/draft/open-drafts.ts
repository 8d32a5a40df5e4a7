import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { call, ProblemError, problemText } from '#web/api/client.ts'
import { beforeSignOut } from '#web/frame/leaving.ts'
import { DraftKeeper } from './keeper.ts'
import type { DraftStore, Kept } from './keeper.ts'

type Template = Answer<Api['template']>

const asKept = ({ draft, draftVersion, changedAt }: Template): Kept => ({
  content: draft,
  version: draftVersion,
  at: changedAt,
})

/** Keeps a template's draft on the server. */
const serverStore = (id: string): DraftStore => ({
  async save(content, version) {
    try {
      const saved = await call('saveDraft', { params: { id }, body: { version, content } })
      return { ok: true, version: saved.version, at: saved.changedAt }
    } catch (error) {
      const text = problemText(error)
      const status = error instanceof ProblemError ? error.problem.status : -1
      if (status === 0) return { ok: false, kind: 'unreached', text }
      if (status !== 409) return { ok: false, kind: 'refused', text }
      const there = await call('template', { params: { id } }).catch(() => null)
      return {
        ok: false,
        kind: 'overtaken',
        text,
        theirs: there && { ...asKept(there), by: there.changedBy },
      }
    }
  },
})

/** Drafts that are kept in mind after their screen was left, at the most. */
const MOST = 12

/** The drafts that were opened in this window: whoever comes back to one finds it as it was left, with its undo. */
class OpenDrafts {
  private readonly keepers = new Map<string, DraftKeeper>()

  /** The draft of a template; what the server said of it last is taken in where it is newer. */
  of(template: Template): DraftKeeper {
    const known = this.keepers.get(template.id)
    const keeper = known ?? new DraftKeeper(asKept(template), serverStore(template.id))
    // Whichever was used last is last to be given up.
    this.keepers.delete(template.id)
    this.keepers.set(template.id, keeper)
    for (const [id, { unsaved }] of this.keepers)
      if (this.keepers.size > MOST && !unsaved) this.keepers.delete(id)
    return keeper
  }

  seen(template: Template): void {
    this.keepers.get(template.id)?.seen(asKept(template))
  }

  get unsaved(): boolean {
    return [...this.keepers.values()].some((keeper) => keeper.unsaved)
  }

  /** Saves what is unsaved and forgets all of it: somebody else may sign in. */
  async close(): Promise<void> {
    await Promise.all([...this.keepers.values()].map((keeper) => keeper.settle()))
    this.keepers.clear()
  }
}

export const openDrafts = new OpenDrafts()
beforeSignOut.add(() => openDrafts.close())

window.addEventListener('beforeunload', (event) => {
  if (openDrafts.unsaved) event.preventDefault()
})

/** A draft that is saved by whoever opened it, not by itself. */
export const looseDraft = (content: TemplateContent): DraftKeeper =>
  new DraftKeeper({ content, version: 0, at: '' }, null)
