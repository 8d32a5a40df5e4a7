/**
 * Something that a window keeps of its person for longer than a screen: what they entered, and what of it can be undone. It lasts until
 * they sign out or somebody else signs in, and no page is left with something unsaved without a word.
 */
export interface KeptHere {
  /** Whether something of it is on this page alone. */
  unsaved(): boolean
  /** Saves what saves itself, as far as that can be done now. */
  settle?(): Promise<unknown>
  forget(): void
}

const all = new Set<KeptHere>()

/** To be called once for each kind, when its module is loaded. */
export const keepHere = (kept: KeptHere): void => void all.add(kept)

/** Whether anything is on this page alone. */
export const unsavedHere = (): boolean => [...all].some((kept) => kept.unsaved())

/** Saves what saves itself; what cannot be saved stays unsaved. */
export const settleHere = async (): Promise<void> => {
  await Promise.all([...all].map((kept) => kept.settle?.()))
}

/** Forgets everything: the next person in this window meets nothing of the one before. */
export function forgetHere(): void {
  for (const kept of all) kept.forget()
}

let owner: string | null = null

/** Says whose window this is: what another person left in it is forgotten. Who signs in again finds theirs. */
export function belongsTo(person: string): void {
  if (owner !== null && owner !== person) forgetHere()
  owner = person
}

/** Has the browser ask before a page is left with something unsaved, which is saved meanwhile where that can be. */
export function askBeforeLeaving(window: Pick<Window, 'addEventListener'>): void {
  window.addEventListener('beforeunload', (event) => {
    if (!unsavedHere()) return
    void settleHere()
    event.preventDefault()
  })
}
