import { keepHere } from '#web/frame/kept-here.ts'
import type { DraftStore, Kept } from './draft-store.ts'

/** Drafts that are kept after their screen was left, at the most. */
const MOST = 12

/**
 * The drafts of one kind that were opened in this window: whoever comes back to one finds it as it was left, with its undo, until they
 * sign out.
 */
export class OpenDrafts<T, S extends DraftStore<T> = DraftStore<T>> {
  private readonly stores = new Map<string, S>()

  /** `saves`: drafts of the kind save themselves. */
  constructor({ saves }: { readonly saves: boolean }) {
    keepHere({
      unsaved: () => this.all().some(({ unsaved }) => unsaved),
      ...(saves ? { settle: () => Promise.all(this.all().map((draft) => draft.settle())) } : {}),
      forget: () => this.stores.clear(),
    })
  }

  /** The draft of this id, or the one that is made; what the server said of it last is taken in if it is newer. */
  of(id: string, kept: Kept<T>, make: () => S): S {
    const known = this.stores.get(id)
    known?.seen(kept)
    const draft = known ?? make()
    // Whichever was used last is the last to go.
    this.stores.delete(id)
    this.stores.set(id, draft)
    for (const [other, { unsaved }] of this.stores)
      if (this.stores.size > MOST && !unsaved) this.stores.delete(other)
    return draft
  }

  /** The draft of this id as the server was found to have it, if it is open. */
  seen(id: string, kept: Kept<T>): void {
    this.stores.get(id)?.seen(kept)
  }

  private all(): readonly S[] {
    return [...this.stores.values()]
  }
}
