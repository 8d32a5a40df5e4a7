import type { ImportRemark } from '#contract/template.ts'

/** What there is to say of a document that was read: each thing once, with how often and where first. */
export class Remarks {
  /** Words near the part that is being read. */
  place = ''
  private readonly found = new Map<string, ImportRemark>()

  tell(kind: ImportRemark['kind'], what: string, place = this.place): void {
    const before = this.found.get(what)
    this.found.set(what, before ? { ...before, count: before.count + 1 } : { kind, what, place, count: 1 })
  }

  all(): readonly ImportRemark[] {
    return [...this.found.values()]
  }
}
