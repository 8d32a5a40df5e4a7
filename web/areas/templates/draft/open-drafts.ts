import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { call } from '#web/api/client.ts'
import { draftServer } from '#web/drafts/draft-server.ts'
import type { Kept } from '#web/drafts/draft-store.ts'
import { OpenDrafts } from '#web/drafts/open-drafts.ts'
import { TemplateDraft } from './template-draft.ts'

type Drafted = Pick<Answer<Api['template']>, 'id' | 'draft' | 'draftVersion' | 'changedAt' | 'changedBy'>

/** Where a draft is read and saved: of a template, or of one agreement of a file. */
const ROUTES = {
  template: { read: 'template', save: 'saveDraft' },
  'one-off': { read: 'oneOff', save: 'saveOneOff' },
} as const
export type DraftOf = keyof typeof ROUTES

const asKept = ({ draft, draftVersion, changedAt }: Drafted): Kept<TemplateContent> => ({
  content: draft,
  version: draftVersion,
  at: changedAt,
})

const serverOf = (id: string, kind: DraftOf) =>
  draftServer<TemplateContent>({
    async save(content, version) {
      const body = { version, content }
      const saved = await call(ROUTES[kind].save, { params: { id }, body, goesOn: true })
      return { version: saved.version, at: saved.changedAt }
    },
    async read() {
      const there: Drafted = await call(ROUTES[kind].read, { params: { id } })
      return { ...asKept(there), by: there.changedBy }
    },
  })

const open = new OpenDrafts<TemplateContent, TemplateDraft>({ saves: true })

/** The drafts of templates, and of agreements of a file, that were opened in this window. */
export const openDrafts = {
  of(drafted: Drafted, kind: DraftOf = 'template'): TemplateDraft {
    const kept = asKept(drafted)
    return open.of(drafted.id, kept, () => new TemplateDraft(kept, serverOf(drafted.id, kind)))
  },
  seen: (drafted: Drafted): void => open.seen(drafted.id, asKept(drafted)),
}

/** A draft that is saved by whoever opened it, not by itself. */
export const looseDraft = (content: TemplateContent): TemplateDraft =>
  new TemplateDraft({ content, version: 0, at: '' }, null)
