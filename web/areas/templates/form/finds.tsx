import { useMemo, useState } from 'react'
import type { Answer } from '#contract/route.ts'
import type { Api } from '#contract/api.ts'
import type { FormPage, Placement } from '#core/document/tree.ts'
import { isMarked } from '#core/form/marked.ts'
import { blankOfField, placedBlank, placedField, styleFor } from '#core/form/new-form.ts'
import { useAnswer } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { type Placing } from './placing.ts'
import { newId } from './form-pages.ts'

type Likely = Answer<Api['likelyBlanks']>[number]
type Field = Answer<Api['pageFile']>['fields'][number]

/** Something found on a page that could be placed there. */
export interface Find {
  readonly key: string
  readonly page: FormPage
  readonly box: { readonly x: number; readonly y: number; readonly width: number; readonly height: number }
  readonly label: string
  readonly kind: string
  readonly make: (role: string) => Placement
  /** As a value of the field that is called like it. */
  readonly field: string | null
}

const overlaps = (a: Find['box'], b: Find['box']): boolean =>
  a.x < b.x + b.width - 2 && b.x < a.x + a.width - 2 && a.y < b.y + b.height - 2 && b.y < a.y + a.height - 2

const plain = (text: string): string => text.toLowerCase().replace(/[^a-z0-9]/g, '')

/** What is found on the pages of a form and has nothing placed on it yet. Turned pages are left to the hand. */
export function useFinds(pages: readonly FormPage[], what: 'likely' | 'fields', file: string | null) {
  const { all } = useStudio()
  const likely = useAnswer(
    'likelyBlanks',
    { params: { file: file ?? '' } },
    { enabled: file !== null && what === 'likely' },
  )
  const own = useAnswer(
    'pageFile',
    { params: { file: file ?? '' } },
    { enabled: file !== null && what === 'fields' },
  )
  const found: readonly (Likely | Field)[] | undefined = what === 'likely' ? likely.data : own.data?.fields
  const finds = useMemo(() => {
    if (!found || !file) return []
    const names = new Map(
      all.flatMap(({ name, label }) => [[plain(label), name] as const, [plain(name), name] as const]),
    )
    return pages
      .filter(({ attrs }) => attrs.file === file && attrs.turn === 0)
      .flatMap((page) =>
        found
          .filter((each) => each.page === page.attrs.page && !('name' in each && isMarked(each)))
          .filter(({ box }) => !page.content.some(({ attrs }) => overlaps(attrs, box)))
          .map((each, i): Find => ({
            key: `${page.attrs.id}.${i}.${Math.round(each.box.x)}.${Math.round(each.box.y)}`,
            page,
            box: each.box,
            label: each.label || each.kind,
            kind: each.kind,
            field:
              names.get(plain(each.label)) ?? ('name' in each ? (names.get(plain(each.name)) ?? null) : null),
            make: (role) =>
              'name' in each
                ? blankOfField(newId(), each, role)
                : placedBlank(
                    newId(),
                    each.box,
                    {
                      kind: each.kind,
                      role,
                      label: each.label || each.kind,
                      required: each.kind !== 'tick',
                    },
                    { style: styleFor(each.box) },
                  ),
          })),
      )
  }, [found, file, pages, all])
  return { finds, pending: what === 'likely' ? likely.isFetching : own.isFetching }
}

/** What was found, to be taken one by one or all at once. */
export function FindsBar({
  finds,
  pending,
  what,
  placing,
  at,
  onAt,
  onClose,
}: {
  readonly finds: readonly Find[]
  readonly pending: boolean
  readonly what: 'likely' | 'fields'
  readonly placing: Placing
  readonly at: string | null
  readonly onAt: (key: string | null) => void
  readonly onClose: () => void
}) {
  const { content } = useStudio()
  const [role, setRole] = useState(placing.role ?? '')
  const known = finds.filter(({ field }) => field !== null)
  const now = Math.max(
    0,
    finds.findIndex(({ key }) => key === at),
  )
  const step = (by: number) => onAt(finds[(now + by + finds.length) % Math.max(1, finds.length)]?.key ?? null)
  const take = (some: readonly Find[]) => {
    placing.take(some.map((find) => ({ page: find.page.attrs.id, placement: find.make(role) })))
    onAt(finds.find((find) => !some.includes(find))?.key ?? null)
  }
  const said = what === 'likely' ? 'likely blank' : 'field of the file'
  // Where something was found and is there no more, it was taken.
  const [taken, setTaken] = useState(false)
  if (finds.length > 0 && !taken) setTaken(true)
  return (
    <div
      role="region"
      aria-label={what === 'likely' ? 'Likely blanks' : 'Fields of the file'}
      className="flex shrink-0 flex-wrap items-center gap-2 border-b border-hair bg-ochre-wash px-3 py-1 text-sm"
    >
      <span role="status" className="text-ochre">
        {pending
          ? 'Looking …'
          : finds.length
            ? `${plural(finds.length, said, what === 'fields' ? 'fields of the file' : undefined)} found`
            : `No ${said} ${taken ? 'is left' : 'was found'}.`}
      </span>
      {finds.length > 0 && (
        <>
          <select
            aria-label="Role of what is taken"
            className="rounded-sm border border-hair bg-sheet px-1 py-0.5"
            value={role}
            onChange={(event) => setRole(event.target.value)}
          >
            {content.roles.length === 0 && <option value="">no role yet</option>}
            {content.roles.map(({ key, label }) => (
              <option key={key} value={key}>
                {label}
              </option>
            ))}
          </select>
          <Button disabled={!role} onClick={() => take(finds)}>
            Take all
          </Button>
          {known.length > 0 && (
            <Button
              onClick={() =>
                placing.take(
                  known.map(({ page, box, field }) => ({
                    page: page.attrs.id,
                    placement: placedField(newId(), box, field!),
                  })),
                )
              }
            >
              Take {plural(known.length, 'known value')}
            </Button>
          )}
          <span className="flex items-center gap-1">
            <Button aria-label="The one before" onClick={() => step(-1)}>
              ‹
            </Button>
            <span className="max-w-52 truncate text-xs">{finds[now]?.label}</span>
            <Button aria-label="The next one" onClick={() => step(1)}>
              ›
            </Button>
            <Button disabled={!role || !finds[now]} onClick={() => take([finds[now]!])}>
              Take this one
            </Button>
          </span>
        </>
      )}
      <button className="ml-auto text-petrol hover:underline" onClick={onClose}>
        Done
      </button>
    </div>
  )
}
