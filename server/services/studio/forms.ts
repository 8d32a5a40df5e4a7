import type * as v from 'valibot'
import type { formStart } from '#contract/page-file.ts'
import type { Person } from '#contract/person.ts'
import type { TemplateContent } from '#core/document/template.ts'
import type { PagesTree } from '#core/document/tree.ts'
import { isText } from '#core/document/walk.ts'
import { placeByCues, readsInOrder } from '#core/form/cues.ts'
import { likelyBlanks } from '#core/form/likely.ts'
import { findPhrase } from '#core/form/phrases.ts'
import { formOfFiles, withNamed } from '#core/form/marked.ts'
import { replaceFile } from '#core/form/replace.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { invalid } from '#server/ground/problem.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { newPartId, pageFileOf, readsOf, readsOfForm } from '#server/services/templates/page-files.ts'
import { addTemplate, readTemplate } from '#server/services/templates/templates.ts'

// What is done with a form while it is made. The draft comes from whoever writes it, and goes back to them.

/** A new form of the pages of files, one behind the other. */
export async function startForm(
  app: App,
  by: Person,
  { title, shelf, files, like }: v.InferOutput<typeof formStart>,
): Promise<{ id: string }> {
  await requireMay(app, by, 'templates')
  if (like) {
    const { draft } = await readTemplate(app, by, like.template)
    const { content } = await replace(app, draft, like.file, files[0]!)
    return addTemplate(app, by, { ...content, title }, shelf)
  }
  const { language } = await organisationOf(app.db)
  const found = await Promise.all(files.map((file) => pageFileOf(app, file)))
  return addTemplate(app, by, formOfFiles(title, language, found, newPartId), shelf)
}

const pagesIn = ({ document }: TemplateContent): PagesTree => {
  if (isText(document)) throw invalid('This template is a text; only a form has pages.')
  return document
}

/** A draft with another version in the place of one of its files, and where everything went. */
export async function replace(app: App, content: TemplateContent, old: string, file: string) {
  const document = pagesIn(content)
  const reads = await readsOfForm(app.db, content)
  const next = await readsOf(app.db, file)
  if (next.length === 0) throw invalid('That file was not brought in here.')
  const { fields } = await pageFileOf(app, file)
  const done = replaceFile(
    document,
    old,
    { file, pages: next.map(({ read }) => read), fields },
    reads,
    newPartId,
  )
  return { content: { ...withNamed(content, fields), document: done.document }, carried: [...done.carried] }
}

/** Where a phrase stands on the pages of a draft. */
export const phrasePlaces = async (app: App, content: TemplateContent, phrase: string) => [
  ...findPhrase(readsInOrder(pagesIn(content).content, await readsOfForm(app.db, content)), phrase),
]

/** A draft with everything that has a cue beside its phrase, and cues that lead nowhere. */
export async function followCues(app: App, content: TemplateContent) {
  const { document, faults } = placeByCues(pagesIn(content), await readsOfForm(app.db, content))
  return { document, faults: [...faults] }
}

/** What looks like a blank on the pages of a file. */
export async function likely(app: App, file: string) {
  const reads = await readsOf(app.db, file)
  if (reads.length === 0) throw invalid('That file was not brought in here.')
  return reads.flatMap(({ page, read }) => likelyBlanks(read).map((blank) => ({ ...blank, page })))
}
