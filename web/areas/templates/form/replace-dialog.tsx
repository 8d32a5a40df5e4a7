import { useState } from 'react'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { FormPage } from '#core/document/tree.ts'
import { isLost } from '#core/form/replace.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { PageDrawing } from './page-drawing.tsx'
import { usePages } from './page-files.ts'
import { pagesOf } from './form-pages.ts'

type Replaced = Answer<Api['replacePages']>
type Carried = Replaced['carried'][number]

const SAID: Readonly<Record<Carried['how'], string>> = {
  'not found again': 'not found again; it keeps its place',
  'not sure': 'not sure; some of its words are here',
  'by cue': 'by its cue',
  'by its marker': 'by its marker',
  'by the words beside it': 'by the words beside it',
  'kept its place': 'kept its place',
}

const moved = ({ from, to }: Carried): string => {
  const pages = to.page - from.page
  const points = Math.round(Math.hypot(to.x - from.x, to.y - from.y))
  if (pages) return `page ${from.page} → ${to.page}`
  return points ? `${points} pt` : 'not moved'
}

/** CSS pixels: how wide a page is shown, and how much of its height around the place. */
const WIDE = 262
const HIGH = 210

/** Where everything went, what was lost first; the page before and the page now side by side. */
export function ReplaceDialog({
  replaced,
  before,
  onTake,
  onClose,
}: {
  readonly replaced: Replaced
  readonly before: readonly FormPage[]
  readonly onTake: () => void
  readonly onClose: () => void
}) {
  const { carried, content } = replaced
  const [at, setAt] = useState(0)
  const shown = carried[at]
  const lost = carried.filter(({ how }) => isLost(how)).length
  return (
    <Dialog title="The other version" open onClose={onClose}>
      <p className="mb-2 text-sm">
        {carried.length === 0
          ? 'Nothing is placed on these pages yet.'
          : lost
            ? `${lost} of ${carried.length} could not be found for sure. They stand first here, and in Checks until you have looked.`
            : `${carried.length === 1 ? 'The one place was' : `All ${carried.length} places were`} found again.`}
      </p>
      {shown && (
        <div className="flex gap-3">
          <Side label="before" pages={before} place={shown.from} id={shown.id} />
          <Side label="now" pages={pagesOf(content).content} place={shown.to} id={shown.id} />
        </div>
      )}
      <ul
        className="mt-3 max-h-40 overflow-auto border-y border-hair text-sm"
        aria-label="Where everything went"
      >
        {carried.map((each, i) => (
          <li key={each.id}>
            <button
              className={`flex w-full gap-2 px-2 py-0.5 text-left ${i === at ? 'bg-petrol-wash' : 'hover:bg-wash'}`}
              aria-pressed={i === at}
              onClick={() => setAt(i)}
            >
              <span className="min-w-0 flex-1 truncate">{each.title}</span>
              <span className={isLost(each.how) ? 'text-brick' : 'text-soft'}>{SAID[each.how]}</span>
              <span className="w-24 text-right tabular-nums">{moved(each)}</span>
            </button>
          </li>
        ))}
      </ul>
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={onClose}>Keep the version before</Button>
        <Button kind="main" onClick={onTake}>
          Take the other version
        </Button>
      </div>
    </Dialog>
  )
}

/** From where a page is shown so that a place stands in the middle. */
const shownFrom = (at: number, high: number): number =>
  Math.max(0, Math.min(at - HIGH / 2, Math.max(0, high - HIGH)))

function Side({
  label,
  pages,
  place,
  id,
}: {
  readonly label: string
  readonly pages: readonly FormPage[]
  readonly place: Carried['to']
  readonly id: string
}) {
  const page = pages[place.page - 1]
  if (!page) return null
  return <SidePage label={label} page={page} place={place} id={id} />
}

function SidePage({
  label,
  page,
  place,
  id,
}: {
  readonly label: string
  readonly page: FormPage
  readonly place: Carried['to']
  readonly id: string
}) {
  const { file, page: number, turn, width, height } = page.attrs
  const opened = usePages(file)
  const scale = WIDE / width
  const box = page.content.find(({ attrs }) => attrs.id === id)?.attrs ?? { width: 80, height: 14 }
  return (
    <figure className="min-w-0">
      <div
        className="relative overflow-hidden border border-hair bg-white"
        style={{ width: WIDE, height: HIGH }}
      >
        <div
          className="absolute left-0"
          style={{ width: WIDE, height: height * scale, top: -shownFrom(place.y * scale, height * scale) }}
        >
          <PageDrawing document={opened} page={number} turn={turn} scale={scale} near />
          <span
            className="absolute border-2 border-ochre bg-ochre/10"
            style={{
              left: place.x * scale,
              top: place.y * scale,
              width: box.width * scale,
              height: box.height * scale,
            }}
          />
        </div>
      </div>
      <figcaption className="mt-1 text-xs text-soft">
        {label}, page {place.page}
      </figcaption>
    </figure>
  )
}
