import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Plus } from 'lucide-react'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import type * as v from 'valibot'
import type { libraryClauseSchema } from '#contract/studio.ts'
import { compareWords } from '#core/compare/words.ts'
import { sameContent } from '#core/compare/equal.ts'
import { clauseFromText, clauseToText } from '#core/document/clause-text.ts'
import { partText } from '#core/document/walk.ts'
import { call, problemText, useAnswer } from '#web/frame/client.ts'
import { useNotice } from '#web/frame/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Input, Labelled, TextArea } from '#web/parts/input.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { plural, When } from '#web/parts/when.tsx'
import { WordChanges } from '#web/parts/word-changes.tsx'

type Kept = v.InferOutput<typeof libraryClauseSchema>

/** The clauses kept for several templates: found by title, tag or words, with where each is used. */
export default function ClauseLibrary() {
  const library = useAnswer('library')
  const writer = useMay('templates')
  const [search, setSearch] = useSearchParams()
  const [text, setText] = useState('')
  if (library.isPending) return <Loading />
  if (library.isError) return <Failed error={library.error} retry={() => void library.refetch()} />
  const tags = [...new Set(library.data.flatMap((clause) => clause.tags))].sort()
  const tag = search.get('tag')
  const found = library.data.filter(
    (clause) =>
      (!tag || clause.tags.includes(tag)) &&
      `${clause.title} ${clause.tags.join(' ')} ${partText(clause.content)}`
        .toLowerCase()
        .includes(text.toLowerCase()),
  )
  const openId = search.get('clause')
  const open = openId === 'new' ? null : (library.data.find(({ id }) => id === openId) ?? found[0] ?? null)
  const show = (id: string) => setSearch({ ...(tag ? { tag } : {}), clause: id }, { replace: true })
  return (
    <div className="grid h-full grid-cols-[minmax(0,20rem)_minmax(0,1fr)]">
      <div className="flex min-h-0 flex-col border-r border-hair">
        <div className="px-4 pt-4 pb-2">
          <p className="text-xs">
            <Link to="/templates" className="text-petrol hover:underline">
              Templates
            </Link>
          </p>
          <h1 className="text-xl">Clause library</h1>
          <Input
            aria-label="Search clauses"
            placeholder="Title, tag or words"
            className="mt-2"
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          <div className="mt-2 flex flex-wrap gap-1 text-xs">
            {tags.map((each) => (
              <button
                key={each}
                aria-pressed={tag === each}
                className={`rounded-sm px-1.5 py-0.5 ${tag === each ? 'bg-petrol-wash text-petrol' : 'text-soft hover:text-ink'}`}
                onClick={() => setSearch(tag === each ? {} : { tag: each }, { replace: true })}
              >
                {each}
              </button>
            ))}
          </div>
        </div>
        <ul className="min-h-0 flex-1 overflow-auto text-sm">
          {found.map((clause) => (
            <li key={clause.id}>
              <button
                aria-current={clause.id === open?.id}
                className={`w-full px-4 py-1.5 text-left ${clause.id === open?.id ? 'bg-petrol-wash' : 'hover:bg-wash'}`}
                onClick={() => show(clause.id)}
              >
                <span className="font-semibold">{clause.title}</span>
                <span className="block text-xs text-soft">
                  edition {clause.edition}, used in {plural(clause.usedIn.length, 'template')}
                </span>
              </button>
            </li>
          ))}
        </ul>
        {writer && (
          <div className="border-t border-hair p-3">
            <Button onClick={() => show('new')}>
              <Plus size={14} /> New clause
            </Button>
          </div>
        )}
      </div>
      {open || openId === 'new' ? (
        <ClauseForm
          key={open ? `${open.id} ${open.edition}` : 'new'}
          clause={open}
          editable={writer}
          onKept={show}
        />
      ) : (
        <Empty title="No clauses yet">
          Keep clauses here that several templates share. Each has its editions, and tells where it is used.
        </Empty>
      )}
    </div>
  )
}

function ClauseForm({
  clause,
  editable,
  onKept,
}: {
  readonly clause: Kept | null
  readonly editable: boolean
  readonly onKept: (id: string) => void
}) {
  const say = useNotice()
  const queries = useQueryClient()
  const [title, setTitle] = useState(clause?.title ?? '')
  const [tags, setTags] = useState(clause?.tags.join(', ') ?? '')
  const [text, setText] = useState(clause ? clauseToText(clause.content) : '')
  const editions = useAnswer(
    'clauseEditions',
    { params: { id: clause?.id ?? '' } },
    { enabled: clause !== null },
  )
  const content = clauseFromText(text, clause?.content ?? null)
  const save = useMutation({
    mutationFn: () => {
      const body = {
        title: title.trim(),
        tags: [
          ...new Set(
            tags
              .split(',')
              .map((tag) => tag.trim())
              .filter(Boolean),
          ),
        ],
        content,
        edition: clause?.edition ?? 0,
      }
      return clause ? call('changeClause', { params: { id: clause.id }, body }) : call('keepClause', { body })
    },
    onSuccess: async (kept) => {
      await queries.invalidateQueries({ queryKey: ['library'] })
      await queries.invalidateQueries({ queryKey: ['clauseEditions'] })
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
  const plain =
    clause === null ||
    sameContent(clauseFromText(clauseToText(clause.content), clause.content), clause.content)
  const changed =
    !clause ||
    text !== clauseToText(clause.content) ||
    title !== clause.title ||
    tags !== clause.tags.join(', ')
  return (
    <div className="min-h-0 overflow-auto p-5" tabIndex={0} role="region" aria-label="Clause">
      <fieldset disabled={!editable} className="max-w-2xl">
        <div className="grid grid-cols-2 gap-3">
          <Labelled label="Title">
            <Input value={title} onChange={(event) => setTitle(event.target.value)} />
          </Labelled>
          <Labelled label="Tags" hint="with commas between">
            <Input value={tags} onChange={(event) => setTags(event.target.value)} />
          </Labelled>
        </div>
        <div className="mt-3">
          <Labelled
            label="Wording"
            hint={
              plain
                ? 'A line for each paragraph; lines that begin with - are clauses inside it. {{name}} is a merge field, **bold**, _italic_.'
                : 'This clause has a table, a condition or a reference in it. Change it in a template, and put it back from its margin note.'
            }
          >
            <TextArea
              rows={10}
              readOnly={!plain}
              className="font-serif leading-relaxed"
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
          </Labelled>
        </div>
        {editable && (
          <div className="mt-3 flex justify-end">
            <Button
              kind="main"
              disabled={!changed || !title.trim() || !text.trim()}
              busy={save.isPending}
              onClick={() => save.mutate()}
            >
              {clause ? `Keep as edition ${clause.edition + 1}` : 'Keep in the library'}
            </Button>
          </div>
        )}
      </fieldset>
      {clause && (
        <div className="mt-5 grid max-w-3xl grid-cols-2 gap-6 text-sm">
          <section>
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
          </section>
          <section>
            <h2 className="text-base">Editions</h2>
            <ul>
              {editions.data?.map((edition, i) => {
                const before = editions.data[i + 1]
                return (
                  <li key={edition.number} className="border-b border-hair/60 py-1">
                    Edition {edition.number}, {edition.publishedBy}, <When at={edition.publishedAt} />
                    {before && (
                      <p className="line-clamp-4 font-serif text-soft">
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
          </section>
        </div>
      )}
    </div>
  )
}
