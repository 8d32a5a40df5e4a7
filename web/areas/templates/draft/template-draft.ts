import type { TemplateContent } from '#core/document/template.ts'
import type { DocumentTree } from '#core/document/tree.ts'
import { isText } from '#core/document/walk.ts'
import { DraftStore } from '#web/drafts/draft-store.ts'

/** A change of a template; those of one kind that follow each other fast are undone together. */
export type Change = (next: (before: TemplateContent) => TemplateContent, kind?: string) => void

/** Kind of the changes that come from writing in the text. */
const WRITING = 'text'

/**
 * A template's draft. The text's editor is a view of it: what is written there comes in by `write`, what changes elsewhere goes out to
 * `onDocument`, at once. All else reads `state`, which follows writing after a pause.
 */
export class TemplateDraft extends DraftStore<TemplateContent> {
  private readonly pages = new Set<(document: DocumentTree) => void>()

  /** Tells of every document that did not come by `write`. */
  readonly onDocument = (page: (document: DocumentTree) => void): (() => void) => {
    this.pages.add(page)
    return () => void this.pages.delete(page)
  }

  /** What the editor of the text says now. */
  readonly write = (document: DocumentTree): void => this.make({ ...this.content, document }, WRITING, true)

  /** What the editor makes of the document it was given, such as ids that were missing: nobody's change. */
  readonly adopt = (document: DocumentTree): void => this.replace({ ...this.content, document })

  protected override came({ document }: TemplateContent, before: TemplateContent, written: boolean): void {
    if (!written && document !== before.document && isText(document))
      this.pages.forEach((page) => page(document))
  }
}
