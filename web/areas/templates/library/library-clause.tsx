import { useMutation } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { Link } from 'react-router'
import type * as v from 'valibot'
import type { libraryClauseSchema } from '#contract/studio.ts'
import { sameContent } from '#core/compare/equal.ts'
import { compareWords } from '#core/compare/words.ts'
import { emptyTemplate } from '#core/document/empty.ts'
import type { TemplateContent } from '#core/document/template.ts'
import type { Clause } from '#core/document/tree.ts'
import { partText } from '#core/document/walk.ts'
import { templateFields } from '#core/merge/fields.ts'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { renew } from '#web/api/queries.ts'
import { Button } from '#web/parts/button.tsx'
import { Input, Labelled, Select } from '#web/parts/input.tsx'
import { plural, When } from '#web/parts/signs/when.tsx'
import { WordChanges } from '#web/parts/signs/word-changes.tsx'
import { useSettled } from '#web/parts/use-settled.ts'
import { PageEditor } from '#web/areas/templates/editor/page-editor.tsx'
import {
  STANDALONE,
  type Studio,
  StudioContext,
  useFieldScopes,
} from '#web/areas/templates/draft/studio-context.ts'
import { useChecks } from '#web/areas/templates/draft/use-checks.ts'
import type { TemplateDraft } from '#web/areas/templates/draft/template-draft.ts'
import { looseDraft } from '#web/areas/templates/draft/open-drafts.ts'
import { useDraft } from '#web/drafts/use-draft.ts'

type Kept = v.InferOutput<typeof libraryClauseSchema>

interface Props {
  /** Null for a new one. */
  readonly clause: Kept | null
  readonly editable: boolean
  readonly onKept: (id: string) => void
}

const newClause: Clause = {
  type: 'clause',
  attrs: { id: 'clause', condition: null },
  content: [{ type: 'paragraph', attrs: { id: 'words', condition: null } }],
}

/** The one clause the text consists of; null where something else stands beside it. */
const onlyClause = ({ document: { content } }: TemplateContent): Clause | null =>
  content.length === 1 && content[0]?.type === 'clause' ? content[0] : null

/**
 * A clause of the library, written as in a template: with the fields and roles of one of those it is for, since a clause
 * has none of its own.
 */
export function LibraryClause({ clause, editable, onKept }: Props) {
  const say = useNotice()
  const [title, setTitle] = useState(clause?.title ?? '')
  const [tags, setTags] = useState(clause?.tags.join(', ') ?? '')
  const [draft] = useState(() =>
    looseDraft({
      ...emptyTemplate(clause?.title ?? ''),
      document: { type: 'doc', content: [clause?.content ?? newClause] },
    }),
  )
  const { content } = useDraft(draft)
  const written = onlyClause(content)
  const templates = useAnswer('templates')
  const [chosen, setChosen] = useState<string | null>(null)
  const fieldsOf = chosen ?? clause?.usedIn[0]?.template ?? templates.data?.[0]?.id ?? null
  const template = useAnswer('template', { params: { id: fieldsOf ?? '' } }, { enabled: fieldsOf !== null })
  const save = useMutation({
    mutationFn: (content: Clause) => {
      const words = tags.split(',').map((tag) => tag.trim())
      const body = {
        title: title.trim(),
        tags: [...new Set(words.filter(Boolean))],
        content,
        edition: clause?.edition ?? 0,
      }
      return clause ? call('changeClause', { params: { id: clause.id }, body }) : call('keepClause', { body })
    },
    onSuccess: async (kept) => {
      await renew('library')
      const linked = kept.usedIn.filter((use) => use.linked)
      say(
        clause && kept.edition > clause.edition && linked.length
          ? `Edition ${kept.edition} is kept. ${plural(linked.length, 'template')} can take it over: ${linked.map(({ name }) => name).join(', ')}.`
          : `Edition ${kept.edition} is kept.`,
      )
      onKept(kept.id)
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  const changed =
    !clause ||
    title !== clause.title ||
    tags !== clause.tags.join(', ') ||
    !sameContent(written, clause.content)
  return (
    <div className="flex min-h-0 flex-col max-md:overflow-auto" role="region" aria-label="Clause">
      <fieldset
        disabled={!editable}
        className="flex flex-wrap items-end gap-3 border-b border-hair px-4 py-2"
      >
        <div className="w-60">
          <Labelled label="Title">
            <Input value={title} onChange={(event) => setTitle(event.target.value)} />
          </Labelled>
        </div>
        <div className="w-48">
          <Labelled label="Tags, with commas between">
            <Input value={tags} onChange={(event) => setTags(event.target.value)} />
          </Labelled>
        </div>
        <div className="w-52">
          <Labelled label="Fields and roles of">
            <Select value={fieldsOf ?? ''} onChange={(event) => setChosen(event.target.value)}>
              {templates.data?.map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </Select>
          </Labelled>
        </div>
        {editable && (
          <Button
            kind="main"
            className="ml-auto"
            disabled={!changed || !title.trim() || !written || !partText(written).trim()}
            busy={save.isPending}
            onClick={() => written && save.mutate(written)}
          >
            {clause ? `Save as edition ${clause.edition + 1}` : 'Save to library'}
          </Button>
        )}
      </fieldset>
      {!written && (
        <p role="alert" className="border-b border-hair bg-ochre-wash px-4 py-1.5 text-sm">
          The library keeps one clause at a time: make what stands beside it part of the clause (Tab), or
          leave it out.
        </p>
      )}
      <div className="grid min-h-0 flex-1 max-md:shrink-0 max-md:grid-cols-[minmax(0,1fr)] max-md:grid-rows-[20rem_auto] md:grid-cols-[minmax(0,1fr)_16rem]">
        <ClauseText draft={draft} editable={editable} template={template.data?.draft ?? null} id={fieldsOf} />
        {clause && <Standing clause={clause} />}
      </div>
    </div>
  )
}

/** The clause on its page, with everything that writing a template has. */
function ClauseText({
  draft,
  editable,
  template,
  id,
}: {
  readonly draft: TemplateDraft
  readonly editable: boolean
  readonly template: TemplateContent | null
  readonly id: string | null
}) {
  const { content: own } = useDraft(draft)
  const content = useMemo<TemplateContent>(
    () =>
      template
        ? {
            ...own,
            language: template.language,
            roles: template.roles,
            // A field that is new in this clause is known at once; the template asks for it when it takes the clause in.
            outline: [
              ...template.outline,
              ...own.outline.filter(({ name }) => template.outline.every((field) => field.name !== name)),
            ],
          }
        : own,
    [own, template],
  )
  const all = useMemo(() => templateFields(content).all, [content])
  const scopes = useFieldScopes(all)
  const checks = useChecks(useSettled(content, 200), null)
  const studio = useMemo<Studio>(
    () => ({
      templateId: id ?? '',
      content,
      editable,
      change: draft.change,
      all,
      checks: checks.filter(({ where }) => where === 'block'),
      ...STANDALONE,
      ...scopes,
    }),
    [id, content, editable, draft, all, checks, scopes],
  )
  return (
    <StudioContext value={studio}>
      <PageEditor draft={draft} onEditor={STANDALONE.goTo} />
    </StudioContext>
  )
}

/** Where a clause is used, and what its editions changed. */
function Standing({ clause }: { readonly clause: Kept }) {
  const editions = useAnswer('clauseEditions', { params: { id: clause.id } })
  return (
    <div
      className="min-h-0 overflow-auto border-l border-hair p-4 text-sm"
      tabIndex={0}
      role="region"
      aria-label="Where the clause stands"
    >
      <h2 className="text-base">Used in</h2>
      {clause.usedIn.length === 0 && <p className="text-soft">No template has it yet.</p>}
      <ul>
        {clause.usedIn.map((use) => (
          <li key={use.template} className="border-b border-hair/60 py-1">
            <Link to={`/templates/${use.template}`} className="text-petrol hover:underline">
              {use.name}
            </Link>
            <span className="block text-xs text-soft">
              {use.linked ? 'linked' : 'a copy'}, edition {use.edition}
              {use.edition < clause.edition && (
                <span className="text-ochre">: edition {clause.edition} is not taken over</span>
              )}
            </span>
          </li>
        ))}
      </ul>
      <h2 className="mt-5 text-base">Editions</h2>
      <ul>
        {editions.data?.map((edition, i) => {
          const before = editions.data[i + 1]
          return (
            <li key={edition.number} className="border-b border-hair/60 py-1">
              Edition {edition.number}, {edition.publishedBy}, <When at={edition.publishedAt} />
              {before && (
                <p className="line-clamp-6 font-serif text-soft">
                  <WordChanges
                    words={compareWords(partText(before.content), partText(edition.content))}
                    context={8}
                  />
                </p>
              )}
            </li>
          )
        })}
      </ul>
    </div>
  )
}
