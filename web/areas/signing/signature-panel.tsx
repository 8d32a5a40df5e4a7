import SignaturePad from 'signature_pad'
import { useEffect, useRef, useState } from 'react'
import { type Script, SCRIPTS } from '#core/agreement/signature.ts'
import { call, problemText } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import type { Value } from './fill-store.ts'
import { handStyle } from './stamp.tsx'
import { FIELD, Sheet } from './sheet.tsx'
import { inkOf } from './signature-picture.ts'
import { useWords } from './words.tsx'

const initialsOf = (name: string) =>
  name
    .split(/\s+/)
    .map((part) => [...part][0] ?? '')
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
  const presses = all.some(({ pressure }) => pressure > 0 && pressure !== 0.5)
  const round = (value: number) => Math.round(value * 1000) / 1000
  return {
    kind: 'drawn',
    strokes: groups
      .filter((points) => points.length > 0)
      .map((points) =>
        points.map(({ x, y, pressure }): [number, number] | [number, number, number] => {
          const [across, down] = [round((x - left) / size), round((y - top) / size)]
          // A mouse and most fingers say 0, or half all the time.
          return presses ? [across, down, round(Math.min(1, pressure))] : [across, down]
        }),
      ),
    height: Math.min(1, Math.max(0.05, round((bottom - top) / size))),
  }
}

const WAYS = ['type', 'draw', 'picture'] as const

interface Props {
  readonly token: string
  readonly kind: 'signature' | 'initials'
  readonly name: string
  readonly filled: boolean
  readonly onClose: () => void
  readonly onUse: (value: Value | null) => void
}

/** A signature or initials, typed, drawn or as a picture; kept for the next place by the page. */
export function SignaturePanel({ token, kind, name, filled, onClose, onUse }: Props) {
  const { say } = useWords()
  const [way, setWay] = useState<(typeof WAYS)[number]>('type')
  const [text, setText] = useState(kind === 'initials' ? initialsOf(name) : name)
  const [script, setScript] = useState<Script>('quick')
  const [drawn, setDrawn] = useState<Value | null>(null)
  const [picture, setPicture] = useState<Blob | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [busy, setBusy] = useState(false)
  const ready = way === 'draw' ? drawn !== null : way === 'picture' ? picture !== null : text.trim() !== ''
  const use = async () => {
    if (way === 'draw') return drawn && onUse(drawn)
    if (way === 'type') return onUse({ kind: 'typed', text: text.trim(), script })
    if (!picture) return
    setBusy(true)
    try {
      onUse({ kind: 'picture', ...(await call('signingSignature', { params: { token }, body: picture })) })
    } catch (error) {
      setProblem(problemText(error))
      setBusy(false)
    }
  }
  return (
    <Sheet title={say(kind === 'initials' ? 'signature.initialsTitle' : 'signature.title')} onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault()
          void use()
        }}
      >
        <div role="group" aria-label={say('signature.how')} className="mb-3 flex gap-1">
          {WAYS.map((each) => (
            <button
              key={each}
              type="button"
              aria-pressed={way === each}
              className={`min-h-11 rounded-sm px-4 ${way === each ? 'bg-petrol-wash font-semibold text-petrol' : 'text-soft'}`}
              onClick={() => {
                setWay(each)
                setProblem(null)
              }}
            >
              {say(`signature.${each}`)}
            </button>
          ))}
        </div>
        {way === 'type' && (
          <>
            <input
              autoFocus
              className={FIELD}
              aria-label={say(kind === 'initials' ? 'signature.initials' : 'signature.name')}
              maxLength={kind === 'initials' ? 6 : 80}
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
            <div role="radiogroup" aria-label={say('signature.script')} className="mt-3 grid gap-1">
              {SCRIPTS.map((each, i) => (
                <label
                  key={each}
                  className={`flex min-h-14 items-center gap-3 overflow-hidden border bg-white px-3 ${script === each ? 'border-petrol' : 'border-hair'}`}
                >
                  <input
                    type="radio"
                    name="script"
                    className="size-5 shrink-0"
                    aria-label={`${say('signature.script')} ${i + 1}`}
                    checked={script === each}
                    onChange={() => setScript(each)}
                  />
                  <span
                    aria-hidden
                    className="truncate pr-2 text-[30px] leading-tight text-[#1a2f66]"
                    style={handStyle(each)}
                  >
                    {text || '\u00a0'}
                  </span>
                </label>
              ))}
            </div>
          </>
        )}
        {way === 'draw' && <Pad onDrawn={setDrawn} />}
        {way === 'picture' && (
          <Picture
            picture={picture}
            onPicture={(blob, fault) => {
              setPicture(blob)
              setProblem(fault)
            }}
          />
        )}
        {problem && (
          <p role="alert" className="mt-2 text-brick">
            {problem}
          </p>
        )}
        <p className="mt-3 text-sm text-soft">
          {say(kind === 'initials' ? 'signature.once' : 'signature.binds')}
        </p>
        <div className="mt-4 flex flex-wrap justify-end gap-2">
          {filled && (
            <Button kind="quiet" className="mr-auto min-h-11" onClick={() => onUse(null)}>
              {say('page.empty')}
            </Button>
          )}
          <Button className="min-h-11" onClick={onClose}>
            {say('page.notNow')}
          </Button>
          <Button kind="main" type="submit" className="min-h-11" disabled={!ready} busy={busy}>
            {say(kind === 'initials' ? 'signature.useInitials' : 'signature.use')}
          </Button>
        </div>
      </form>
    </Sheet>
  )
}

function Picture({
  picture,
  onPicture,
}: {
  readonly picture: Blob | null
  readonly onPicture: (picture: Blob | null, problem: string | null) => void
}) {
  const { say } = useWords()
  const [url, setUrl] = useState<string | null>(null)
  useEffect(() => {
    if (!picture) return setUrl(null)
    const made = URL.createObjectURL(picture)
    setUrl(made)
    return () => URL.revokeObjectURL(made)
  }, [picture])
  return (
    <>
      <label className="block">
        <span className="text-sm text-soft">{say('signature.pictureNote')}</span>
        <input
          type="file"
          accept="image/png,image/jpeg"
          aria-label={say('signature.picture')}
          className="mt-2 block min-h-11 w-full text-base"
          onChange={(event) => {
            const file = event.target.files?.[0]
            if (!file) return onPicture(null, null)
            void inkOf(file).then((made) =>
              made.ok
                ? onPicture(made.picture, null)
                : onPicture(null, say(made.large ? 'signature.pictureLarge' : 'signature.pictureBroken')),
            )
          }}
        />
      </label>
      {url && <img src={url} alt="" className="mt-2 h-24 border border-hair bg-white object-contain p-2" />}
    </>
  )
}

function Pad({ onDrawn }: { readonly onDrawn: (value: Value | null) => void }) {
  const { say } = useWords()
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
    <div>
      <canvas
        ref={canvas}
        role="img"
        aria-label={say('signature.drawHere')}
        className="h-44 w-full touch-none border border-hair bg-white"
      />
      <div className="flex items-center justify-between">
        <span className="text-sm text-soft">{say('signature.drawHere')}</span>
        <button
          type="button"
          className="min-h-11 px-2 text-petrol underline"
          onClick={() => {
            pad.current?.clear()
            onDrawn(null)
          }}
        >
          {say('signature.clear')}
        </button>
      </div>
    </div>
  )
}
