import { memo, type ReactNode, type RefObject, useRef } from 'react'
import type { SignerRole } from '#core/document/template.ts'
import type { FormPage } from '#core/document/tree.ts'
import { useNear } from './near.ts'
import { PageDrawing } from './page-drawing.tsx'
import { usePageRead, usePages } from './page-files.ts'
import { PlacementBox } from './placement-box.tsx'
import type { Placing, Spot } from './placing.ts'
import { useSheetPointer } from './use-sheet-pointer.ts'

interface Props {
  readonly page: FormPage
  /** Its place among all, from 0. */
  readonly index: number
  readonly scale: number
  readonly root: RefObject<HTMLDivElement | null>
  readonly placing: Placing
  /** What is chosen on this page. */
  readonly chosen: readonly string[]
  /** How many are chosen on all pages. */
  readonly chosenInAll: number
  readonly spot: Spot | null
  readonly roles: readonly SignerRole[]
  readonly labelOf: (field: string) => string
  readonly editable: boolean
  readonly snap: boolean
  /** What is found on the page and not taken yet. */
  readonly finds: ReactNode
  readonly onFocus: () => void
}

/** One page with everything placed on it. What is dragged is moved on the screen alone, and on the page once it is let go. */
export const Sheet = memo(function Sheet({
  page,
  index,
  scale,
  root,
  placing,
  chosen,
  chosenInAll,
  spot,
  roles,
  labelOf,
  editable,
  snap,
  finds,
  onFocus,
}: Props) {
  const { id, file, page: number, turn, width, height, condition } = page.attrs
  const box = useRef<HTMLDivElement>(null)
  const near = useNear(box, root)
  const document_ = usePages(file)
  const read = usePageRead(file, number, near && editable)
  const guides = useRef<HTMLDivElement>(null)
  const drawn = useRef<HTMLDivElement>(null)
  const press = useSheetPointer({
    page,
    scale,
    root,
    placing,
    editable,
    snap,
    read,
    box,
    guides,
    drawn,
    onFocus,
  })

  return (
    <div className="relative" style={{ width: width * scale, height: height * scale }}>
      <div
        ref={box}
        data-sheet={id}
        role="group"
        aria-label={`Page ${index + 1}`}
        className={`relative h-full w-full touch-none border border-hair bg-white ${editable ? 'cursor-crosshair' : ''}`}
        onPointerDown={press}
      >
        <PageDrawing document={document_} page={number} turn={turn} scale={scale} near={near} />
        {near && finds}
        {near &&
          page.content.map((placement) => {
            const isChosen = chosen.includes(placement.attrs.id)
            return (
              <PlacementBox
                key={placement.attrs.id}
                placement={placement}
                scale={scale}
                chosen={isChosen}
                alone={isChosen && chosenInAll === 1}
                roles={roles}
                labelOf={labelOf}
                editable={editable}
              />
            )
          })}
        {spot && (
          <div
            className="pointer-events-none absolute z-20 border border-petrol bg-petrol/10"
            style={{
              left: spot.x * scale,
              top: spot.y * scale,
              width: spot.width * scale,
              height: spot.height * scale,
            }}
          />
        )}
        <div
          ref={drawn}
          className="pointer-events-none absolute z-20 hidden border border-petrol bg-petrol/10"
        />
        <div ref={guides} className="pointer-events-none absolute inset-0 z-30">
          <span className="absolute inset-y-0 hidden border-l border-petrol/60" />
          <span className="absolute inset-x-0 hidden border-t border-petrol/60" />
        </div>
      </div>
      <Notes page={page} scale={scale} condition={condition} index={index} />
    </div>
  )
})

/** Conditions stand in the margin beside what they decide. */
function Notes({
  page,
  scale,
  condition,
  index,
}: {
  readonly page: FormPage
  readonly scale: number
  readonly condition: string | null
  readonly index: number
}) {
  const notes = page.content.filter(({ attrs }) => attrs.condition !== null && !attrs.of)
  return (
    <div className="absolute inset-y-0 left-full w-32 overflow-hidden pl-2 text-xs text-soft italic">
      <span className="not-italic">{index + 1}</span>
      {condition !== null && <p className="line-clamp-3">this page only if {condition}</p>}
      {notes.map(({ attrs }) => (
        <span
          key={attrs.id}
          className="absolute right-0 left-0 truncate border-t border-hair pl-2"
          style={{ top: (attrs.y + attrs.height / 2) * scale }}
          title={attrs.condition ?? ''}
        >
          if {attrs.condition}
        </span>
      ))}
    </div>
  )
}
