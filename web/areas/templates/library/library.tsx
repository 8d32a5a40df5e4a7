import { Plus } from 'lucide-react'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { partText } from '#core/document/walk.ts'
import { useAnswer } from '#web/api/client.ts'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Input } from '#web/parts/input.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { LibraryClause } from './library-clause.tsx'

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
    <div className="grid h-full max-md:grid-cols-[minmax(0,1fr)] max-md:grid-rows-[minmax(0,2fr)_minmax(0,3fr)] md:grid-cols-[15rem_minmax(0,1fr)]">
      <div className="flex min-h-0 flex-col border-r border-hair max-md:overflow-auto max-md:border-b">
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
        <ul className="text-sm md:min-h-0 md:flex-1 md:overflow-auto">
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
        <LibraryClause
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
