import SignaturePad from 'signature_pad'
import { useEffect, useRef, useState } from 'react'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Input } from '#web/parts/input.tsx'
import type { Value } from './place-mark.tsx'

const initialsOf = (name: string) =>
  name
    .split(/\s+/)
    .map((part) => part[0] ?? '')
    .join('')
    .toUpperCase()

/** Every so many points of a stroke are kept at the most. */
const MOST_POINTS = 300

/** Strokes as points in a box 1 wide, cut to what was drawn. Null where nothing was. */
function strokesOf(pad: SignaturePad): Extract<Value, { kind: 'drawn' }> | null {
  const groups = pad
    .toData()
    .map(({ points }) =>
      points.filter((_, i) => i % Math.ceil(points.length / MOST_POINTS) === 0 || i === points.length - 1),
    )
  const all = groups.flat()
  if (all.length < 2) return null
  const [left, right] = [Math.min(...all.map(({ x }) => x)), Math.max(...all.map(({ x }) => x))]
  const [top, bottom] = [Math.min(...all.map(({ y }) => y)), Math.max(...all.map(({ y }) => y))]
  const size = Math.max(right - left, bottom - top, 20)
  const round = (value: number) => Math.round(value * 1000) / 1000
  return {
    kind: 'drawn',
    strokes: groups
      .filter((points) => points.length > 0)
      .map((points) =>
        points.map(({ x, y }): [number, number] => [round((x - left) / size), round((y - top) / size)]),
      ),
    height: Math.min(1, Math.max(0.05, round((bottom - top) / size))),
  }
}

interface Props {
  readonly kind: 'signature' | 'initials'
  readonly name: string
  readonly filled: boolean
  readonly onClose: () => void
  readonly onUse: (value: Value) => void
  readonly onEmpty: () => void
}

/** A signature or initials, typed or drawn; kept for the next place by the page. */
export function SignatureDialog({ kind, name, filled, onClose, onUse, onEmpty }: Props) {
  const [way, setWay] = useState<'type' | 'draw'>('type')
  const [text, setText] = useState(kind === 'initials' ? initialsOf(name) : name)
  const [drawn, setDrawn] = useState<Value | null>(null)
  const value: Value | null =
    way === 'draw' ? drawn : text.trim() ? { kind: 'typed', text: text.trim() } : null
  return (
    <Dialog title={kind === 'initials' ? 'Your initials' : 'Your signature'} open onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault()
          if (value) onUse(value)
        }}
      >
        <div role="tablist" aria-label="How" className="mb-3 flex gap-1 text-sm">
          {(['type', 'draw'] as const).map((each) => (
            <button
              key={each}
              type="button"
              role="tab"
              aria-selected={way === each}
              className={`rounded-sm px-3 py-1 capitalize ${way === each ? 'bg-petrol-wash font-semibold text-petrol' : 'text-soft'}`}
              onClick={() => setWay(each)}
            >
              {each}
            </button>
          ))}
        </div>
        {way === 'type' ? (
          <>
            <Input
              autoFocus
              aria-label={kind === 'initials' ? 'Initials' : 'Full name'}
              maxLength={kind === 'initials' ? 6 : 80}
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
            <p
              className="mt-3 flex h-24 items-end overflow-hidden border-b border-ink bg-white px-3 text-[44px] leading-tight text-[#1a2f66]"
              style={{ fontFamily: 'var(--font-hand)' }}
              aria-hidden
            >
              {text}
            </p>
          </>
        ) : (
          <Pad onDrawn={setDrawn} />
        )}
        <p className="mt-3 text-xs text-soft">
          {kind === 'initials'
            ? 'After this, one touch sets them on each page.'
            : 'By using this you make it your signature on this agreement.'}
        </p>
        <div className="mt-4 flex justify-end gap-2">
          {filled && (
            <Button kind="quiet" className="mr-auto" onClick={onEmpty}>
              Empty this place
            </Button>
          )}
          <Button onClick={onClose}>Not now</Button>
          <Button kind="main" type="submit" disabled={!value}>
            Use {kind === 'initials' ? 'these initials' : 'this signature'}
          </Button>
        </div>
      </form>
    </Dialog>
  )
}

function Pad({ onDrawn }: { readonly onDrawn: (value: Value | null) => void }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const pad = useRef<SignaturePad | null>(null)
  useEffect(() => {
    const element = canvas.current!
    const ratio = window.devicePixelRatio || 1
    element.width = element.offsetWidth * ratio
    element.height = element.offsetHeight * ratio
    element.getContext('2d')!.scale(ratio, ratio)
    const made = new SignaturePad(element, { penColor: '#1a2f66', minWidth: 0.8, maxWidth: 2.2 })
    made.addEventListener('endStroke', () => onDrawn(strokesOf(made)))
    pad.current = made
    return () => made.off()
  }, [onDrawn])
  return (
    <div className="relative">
      <canvas
        ref={canvas}
        aria-label="Draw here"
        className="h-40 w-full touch-none border border-hair bg-white"
      />
      <button
        type="button"
        className="absolute top-1 right-2 text-xs text-[#5f5b53] underline"
        onClick={() => {
          pad.current?.clear()
          onDrawn(null)
        }}
      >
        Clear
      </button>
    </div>
  )
}
