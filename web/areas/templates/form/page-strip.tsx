import { type KeyboardEvent, type RefObject, useRef, useState } from 'react'
import type { FormPage } from '#core/document/tree.ts'
import { Pop } from '#web/areas/templates/editor/tool.tsx'
import { ConditionForm } from '#web/areas/templates/condition/condition-form.tsx'
import { useNear } from './near.ts'
import { PageDrawing } from './page-drawing.tsx'
import { usePages } from './page-files.ts'
import type { Placing } from './placing.ts'

const WIDE = 92

/** All pages small, to be put in order: by dragging, or by Alt ↑ ↓; R turns, D doubles, Delete takes out. */
export function PageStrip({
  pages,
  placing,
  editable,
  onShow,
}: {
  readonly pages: readonly FormPage[]
  readonly placing: Placing
  readonly editable: boolean
  readonly onShow: (id: string) => void
}) {
  const strip = useRef<HTMLElement>(null)
  const [dragged, setDragged] = useState<string | null>(null)
  const [over, setOver] = useState<number | null>(null)
  const onKey = (event: KeyboardEvent, page: FormPage, i: number) => {
    const { id } = page.attrs
    const go = (to: number) =>
      (
        event.currentTarget.parentElement?.children[to]?.querySelector('button') as HTMLElement | null
      )?.focus()
    const acts: Readonly<Record<string, () => void>> = {
      ArrowUp: () => (event.altKey ? placing.movePage(id, i - 1) : go(i - 1)),
      ArrowDown: () => (event.altKey ? placing.movePage(id, i + 1) : go(i + 1)),
      r: () => placing.turn(id, 90),
      R: () => placing.turn(id, 270),
      d: () => placing.copyPage(id),
      Delete: () => placing.dropPage(id),
      Backspace: () => placing.dropPage(id),
    }
    const act = acts[event.key]
    if (!act || event.ctrlKey || event.metaKey || (!editable && !event.key.startsWith('Arrow'))) return
    event.preventDefault()
    act()
  }
  return (
    <nav
      ref={strip}
      aria-label="Pages"
      className="w-32 shrink-0 overflow-auto border-r border-hair py-2 text-xs"
    >
      <ol>
        {pages.map((page, i) => (
          <li
            key={page.attrs.id}
            draggable={editable}
            onDragStart={() => setDragged(page.attrs.id)}
            onDragEnd={() => (setDragged(null), setOver(null))}
            onDragOver={(event) => (event.preventDefault(), setOver(i))}
            onDrop={() => {
              if (dragged) placing.movePage(dragged, i)
              setDragged(null)
              setOver(null)
            }}
            onKeyDown={(event) => onKey(event, page, i)}
            className={`px-3 py-1 ${over === i && dragged ? 'border-t-2 border-petrol' : 'border-t-2 border-transparent'}`}
          >
            <button
              className="block w-full text-left outline-offset-2"
              title={editable ? 'Drag, or Alt ↑ ↓: order. R: turn. D: double. Delete: take out.' : undefined}
              aria-label={`Page ${i + 1}${page.attrs.condition ? `, only where ${page.attrs.condition}` : ''}`}
              onClick={() => onShow(page.attrs.id)}
            >
              <Thumbnail page={page} strip={strip} />
              <span className="mt-0.5 flex justify-between text-soft">
                {i + 1}
                {page.attrs.condition && <i className="ml-1 truncate">where {page.attrs.condition}</i>}
              </span>
            </button>
            {editable && (
              <Pop label="" icon={<span className="text-petrol">only where</span>}>
                {(close) => (
                  <ConditionForm
                    title={`Page ${i + 1} stands only where`}
                    initial={page.attrs.condition ?? ''}
                    repeat={null}
                    clearLabel="Always"
                    onSet={(condition) => (placing.setPageCondition(page.attrs.id, condition), close())}
                    onCancel={close}
                  />
                )}
              </Pop>
            )}
          </li>
        ))}
      </ol>
    </nav>
  )
}

function Thumbnail({
  page,
  strip,
}: {
  readonly page: FormPage
  readonly strip: RefObject<HTMLElement | null>
}) {
  const { file, page: number, turn, width, height } = page.attrs
  const document = usePages(file)
  const scale = WIDE / Math.max(width, height)
  const box = useRef<HTMLSpanElement>(null)
  const near = useNear(box, strip)
  return (
    <span
      ref={box}
      className="relative block border border-hair bg-white"
      style={{ width: width * scale, height: height * scale }}
    >
      <PageDrawing document={document} page={number} turn={turn} scale={scale} near={near} />
    </span>
  )
}
