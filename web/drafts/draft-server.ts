import { ProblemError, problemText } from '#web/api/problem.ts'
import type { DraftServer, Theirs } from './draft-store.ts'

/** Where a draft is saved, by a call that saves it and one that reads what stands there: a refusal comes as a value. */
export const draftServer = <T>({
  save,
  read,
}: {
  /** Throws a problem; 409: the version is not the one that is there. */
  readonly save: (content: T, version: number) => Promise<{ readonly version: number; readonly at: string }>
  readonly read: () => Promise<Theirs<T>>
}): DraftServer<T> => ({
  async save(content, version) {
    try {
      return { ok: true, ...(await save(content, version)) }
    } catch (error) {
      const text = problemText(error)
      const status = error instanceof ProblemError ? error.problem.status : -1
      if (status === 0) return { ok: false, kind: 'unreached', text }
      if (status !== 409) return { ok: false, kind: 'refused', text }
      return { ok: false, kind: 'overtaken', text, theirs: await read().catch(() => null) }
    }
  },
})
