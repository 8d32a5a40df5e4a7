import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import type { Placement, TextCue } from '#core/document/tree.ts'
import { call } from '#web/api/client.ts'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { Button } from '#web/parts/button.tsx'
import { Input } from '#web/parts/input.tsx'
import { useSettled } from '#web/parts/use-settled.ts'
import { pagesOf } from './form-pages.ts'

/** A phrase that a placement keeps its distance to; what stands beside it now is proposed. */
export function CueForm({
  placement,
  proposed,
  onSet,
}: {
  readonly placement: Placement
  readonly proposed: string
  readonly onSet: (cue: TextCue | null) => void
}) {
  const { content } = useStudio()
  const { cue = null, x, y, id } = placement.attrs
  const [phrase, setPhrase] = useState(cue?.phrase ?? proposed)
  const [nth, setNth] = useState<number | 'every' | null>(cue?.nth ?? null)
  const sought = useSettled(phrase.trim(), 250)
  const files = pagesOf(content).content.map(({ attrs }) => `${attrs.file}.${attrs.page}.${attrs.turn}`)
  const found = useQuery({
    queryKey: ['phrase', sought, files],
    queryFn: () => call('findPhrase', { body: { content, phrase: sought } }),
    enabled: sought !== '',
  })
  const places = found.data ?? []
  const page = pagesOf(content).content.findIndex((each) => each.content.some(({ attrs }) => attrs.id === id))
  // Without a word of which is meant it is the one nearest to where the placement stands.
  const nearest = places.reduce<{ at: number; far: number } | null>((best, place, i) => {
    const far = Math.abs(place.page - page) * 10_000 + Math.hypot(place.x - x, place.base - y)
    return best && best.far <= far ? best : { at: i, far }
  }, null)
  const chosen = nth ?? (nearest ? nearest.at + 1 : 1)
  const by = chosen === 'every' ? places[nearest?.at ?? 0] : places[chosen - 1]
  return (
    <form
      className="w-80 text-sm"
      onSubmit={(event) => {
        event.preventDefault()
        if (by) onSet({ phrase: sought, nth: chosen, dx: x - by.x, dy: y - by.base })
      }}
    >
      <p className="mb-1 font-semibold">Keeps its distance to</p>
      <Input
        autoFocus
        aria-label="Phrase on the page"
        placeholder="Signature of the owner"
        maxLength={300}
        value={phrase}
        onChange={(event) => {
          setPhrase(event.target.value)
          setNth(null)
        }}
      />
      <p
        role="status"
        className={`mt-1 text-xs ${found.data && places.length === 0 ? 'text-brick' : 'text-soft'}`}
      >
        {sought === ''
          ? 'Words as they stand on the page; case, spaces, hyphens and breaks of lines make no difference.'
          : !found.data
            ? 'Looking …'
            : places.length === 0
              ? 'These words stand nowhere on the pages.'
              : places.length === 1
                ? `Stands once, on page ${places[0]!.page + 1}.`
                : `Stands ${places.length} times.`}
      </p>
      {places.length > 1 && (
        <label className="mt-2 block">
          which one{' '}
          <select
            aria-label="Which occurrence"
            className="rounded-sm border border-hair bg-sheet px-1 py-0.5"
            value={String(chosen)}
            onChange={(event) =>
              setNth(event.target.value === 'every' ? 'every' : Number(event.target.value))
            }
          >
            {places.map((place, i) => (
              <option key={i} value={i + 1}>
                {i + 1}, on page {place.page + 1}
              </option>
            ))}
            <option value="every">beside every one</option>
          </select>
        </label>
      )}
      <div className="mt-3 flex justify-end gap-2">
        {cue && <Button onClick={() => onSet(null)}>No cue</Button>}
        <Button kind="main" type="submit" disabled={!by}>
          Keep the distance
        </Button>
      </div>
    </form>
  )
}
