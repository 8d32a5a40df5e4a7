import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { call, ProblemError, problemText } from '#web/api/client.ts'
import { keepHere } from '#web/frame/kept-here.ts'
import { type DraftServer, DraftStore, type Kept } from './draft-store.ts'

type Drafted = Pick<Answer<Api['template']>, 'id' | 'draft' | 'draftVersion' | 'changedAt' | 'changedBy'>

/** Where a draft is read and saved: of a template, or of one agreement of a file. */
const ROUTES = {
  template: { read: 'template', save: 'saveDraft' },
  'one-off': { read: 'oneOff', save: 'saveOneOff' },
} as const
export type DraftOf = keyof typeof ROUTES

const asKept = ({ draft, draftVersion, changedAt }: Drafted): Kept => ({
  content: draft,
  version: draftVersion,
  at: changedAt,
})

/** Keeps a draft on the server. */
const serverOf = (id: string, kind: DraftOf): DraftServer => ({
  async save(content, version) {
    try {
      const saved = await call(ROUTES[kind].save, {
        params: { id },
        body: { version, content },
        goesOn: true,
      })
      return { ok: true, version: saved.version, at: saved.changedAt }
    } catch (error) {
      const text = problemText(error)
      const status = error instanceof ProblemError ? error.problem.status : -1
      if (status === 0) return { ok: false, kind: 'unreached', text }
      if (status !== 409) return { ok: false, kind: 'refused', text }
      const there: Drafted | null = await call(ROUTES[kind].read, { params: { id } }).catch(() => null)
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
  private readonly keepers = new Map<string, DraftStore>()

  /** The draft of this id; what the server said of it last is taken in where it is newer. */
  of(drafted: Drafted, kind: DraftOf = 'template'): DraftStore {
    const known = this.keepers.get(drafted.id)
    const keeper = known ?? new DraftStore(asKept(drafted), serverOf(drafted.id, kind))
    // Whichever was used last is last to be given up.
    this.keepers.delete(drafted.id)
    this.keepers.set(drafted.id, keeper)
    for (const [id, { unsaved }] of this.keepers)
      if (this.keepers.size > MOST && !unsaved) this.keepers.delete(id)
    return keeper
  }

  seen(drafted: Drafted): void {
    this.keepers.get(drafted.id)?.seen(asKept(drafted))
  }

  get unsaved(): boolean {
    return [...this.keepers.values()].some((keeper) => keeper.unsaved)
  }

  async settle(): Promise<void> {
    await Promise.all([...this.keepers.values()].map((keeper) => keeper.settle()))
  }

  forget(): void {
    this.keepers.clear()
  }
}

export const openDrafts = new OpenDrafts()
keepHere({
  unsaved: () => openDrafts.unsaved,
  settle: () => openDrafts.settle(),
  forget: () => openDrafts.forget(),
})

/** A draft that is saved by whoever opened it, not by itself. */
export const looseDraft = (content: TemplateContent): DraftStore =>
  new DraftStore({ content, version: 0, at: '' }, null)
