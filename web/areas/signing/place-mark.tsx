import { useState } from 'react'
import type { CSSProperties } from 'react'
import { inkOf } from '#core/agreement/ink.ts'
import type { Script, Strokes } from '#core/agreement/signature.ts'
import type { Blank, Value } from './fill-keeper.ts'
import { readPlaceText } from './place-text.ts'
import { useDocumentLanguage, useLabel, useWords } from './words.tsx'

/** The hands that signatures are typed in, as the executed document has them. */
export const HANDS: Readonly<Record<Script, CSSProperties>> = {
  quick: { fontFamily: 'var(--font-hand)', fontWeight: 600 },
  flowing: { fontFamily: "'Dancing Script', cursive", fontWeight: 600 },
  round: { fontFamily: 'Kalam, cursive', fontWeight: 400 },
}

/** A drawn signature as an SVG path to be filled, in a box as wide as 100: as the document will have it. */
export const inkPath = (strokes: Strokes): string =>
  inkOf(strokes)
    .map((outline) =>
      outline.length > 2
        ? `${outline.map(([x, y], i) => `${i ? 'L' : 'M'}${(x * 100).toFixed(2)} ${(y * 100).toFixed(2)}`).join('')}Z`
        : '',
    )
    .join('')

export function Signature({ value, size }: { readonly value: Value; readonly size: number }) {
  const { say } = useWords()
  if (value.kind === 'picture') return <span className="text-xs">{say('page.image')}</span>
  if (value.kind === 'drawn')
    return (
      <svg
        viewBox={`0 0 100 ${value.height * 100}`}
        className="h-full w-full"
        preserveAspectRatio="xMinYMax meet"
        aria-hidden
      >
        <path d={inkPath(value.strokes)} fill="#1a2f66" fillRule="nonzero" />
      </svg>
    )
  return (
    <span
      // Written letters lean beyond their width; what is cut off at the end must not be the last of them.
      className="block truncate pr-[0.25em] leading-none text-[#1a2f66]"
      style={{
        ...(value.kind === 'typed' ? HANDS[value.script ?? 'quick'] : { fontFamily: 'var(--font-sans)' }),
        fontSize: size,
      }}
    >
      {value.kind === 'file' ? value.name : 'text' in value ? value.text : ''}
    </span>
  )
}

interface Props {
  readonly blank: Blank
  readonly scale: number
  readonly value: Value | undefined
  readonly pointed: boolean
  /** Opens the signature dialog, or puts in what was given before. */
  readonly onTouch: () => void
  readonly onValue: (value: Value | null) => void
  readonly hold: (element: HTMLElement | null) => void
}

/**
 * A box to tick, drawn over the printed one: the same ink cross that the executed document gets. The touch area is never
 * smaller than 24 CSS pixels (WCAG 2.2, 2.5.8).
 */
const BOX =
  'absolute m-0 appearance-none border border-[#20242b] bg-[#155e6b]/8 before:absolute before:-inset-2 hover:bg-[#155e6b]/15 ' +
  'checked:bg-[linear-gradient(45deg,transparent_44%,#1a2f66_44%_56%,transparent_56%),linear-gradient(-45deg,transparent_44%,#1a2f66_44%_56%,transparent_56%)]'

/** CSS pixels of a point from which what is set at the size of print can be read and hit. */
const READABLE = 0.9

const TYPED = ['name', 'title', 'company', 'text', 'number']

/** One place to fill, on the page where it stands: an ink outline until it is filled. */
export function PlaceMark({ blank, scale, value, pointed, onTouch, onValue, hold }: Props) {
  const { say } = useWords()
  const label = useLabel()(blank)
  const box = {
    left: blank.x * scale,
    top: blank.y * scale,
    width: blank.width * scale,
    height: blank.height * scale,
  }
  const outline =
    (value ?? blank.rules.preset)
      ? 'border-transparent hover:border-[#20242b]'
      : `border-[#20242b] ${pointed ? 'bg-[#155e6b]/20 outline-2 outline-offset-2 outline-[#155e6b]' : 'bg-[#155e6b]/8 hover:bg-[#155e6b]/15'}`
  if (blank.kind === 'date')
    return (
      <span
        className="absolute flex items-end text-[#5f5b53]"
        style={{ ...box, fontSize: box.height * 0.6 }}
        title={say('page.dayNote')}
      >
        {say('page.dayOfSigning')}
      </span>
    )
  // Too small to be typed into or ticked: touched, it opens at a readable size.
  const direct = scale >= READABLE
  if (direct && TYPED.includes(blank.kind))
    return (
      <TypedPlace blank={blank} box={box} outline={outline} value={value} onValue={onValue} hold={hold} />
    )
  if (direct && blank.kind === 'tick')
    return (
      <input
        type="checkbox"
        ref={hold}
        aria-label={blank.label}
        className={`${BOX} ${pointed ? 'outline-2 outline-offset-2 outline-[#155e6b]' : ''}`}
        style={box}
        checked={value?.kind === 'tick'}
        onChange={(event) => onValue(event.target.checked ? { kind: 'tick' } : null)}
      />
    )
  if (direct && blank.kind === 'choice')
    return (
      <ChoicePlaces
        blank={blank}
        scale={scale}
        pointed={pointed}
        value={value}
        onValue={onValue}
        hold={hold}
      />
    )
  const first = blank.kind === 'choice' ? blank.options[0] : undefined
  return (
    <button
      ref={hold}
      onClick={onTouch}
      // What can be seen in it is part of its name (WCAG 2.5.3).
      aria-label={
        value ? `${label}, ${say('page.filled')}${'text' in value ? `: ${value.text}` : ''}` : label
      }
      // The touch area is never smaller than 44 CSS pixels (common practice; WCAG 2.2, 2.5.8 asks for 24), however small the page.
      className={`absolute flex items-end border px-0.5 text-left before:absolute before:top-1/2 before:left-1/2 before:h-full before:min-h-11 before:w-full before:min-w-11 before:-translate-x-1/2 before:-translate-y-1/2 ${outline}`}
      style={first ? { ...box, left: first.x * scale, top: first.y * scale } : box}
    >
      {value ? (
        <Shown blank={blank} value={value} size={Math.min(box.height * 0.8, 26 * scale)} />
      ) : (
        box.height > 24 && <span className="text-xs text-[#20242b]">{label}</span>
      )}
    </button>
  )
}

/** What stands in a place that is touched to be changed. */
function Shown({
  blank,
  value,
  size,
}: {
  readonly blank: Blank
  readonly value: Value
  readonly size: number
}) {
  if (value.kind === 'tick' || value.kind === 'choice')
    return <span className="m-auto leading-none text-[#1a2f66]">×</span>
  if (blank.kind === 'signature' || blank.kind === 'initials') return <Signature value={value} size={size} />
  return (
    <span className="truncate text-[#1a2f66]" style={{ fontSize: size }}>
      {'text' in value ? value.text : value.kind === 'file' ? value.name : ''}
    </span>
  )
}

interface PlaceProps {
  readonly blank: Blank
  readonly value: Value | undefined
  readonly onValue: (value: Value | null) => void
  readonly hold: (element: HTMLElement | null) => void
}

/** A line to type in. What is wrong with it is said at once, and nothing wrong is sent. */
function TypedPlace({
  blank,
  box,
  outline,
  value,
  onValue,
  hold,
}: PlaceProps & { readonly box: { readonly height: number }; readonly outline: string }) {
  const speaker = useWords()
  const document = useDocumentLanguage()
  const given = value?.kind === 'text' ? value.text : ''
  const [text, setText] = useState(given || (blank.rules.preset ?? ''))
  const [problem, setProblem] = useState<string | null>(null)
  const leave = async () => {
    const plain = text.trim()
    // What stands there already was read before.
    if (plain === (given || (blank.rules.preset ?? ''))) return setProblem(null)
    const found = plain ? await readPlaceText(blank, plain, speaker, document) : null
    setProblem(found?.problem ?? null)
    if (found?.problem) return
    setText(found?.text ?? '')
    onValue(found ? { kind: 'text', text: found.text } : null)
  }
  return (
    <>
      <input
        ref={hold}
        aria-label={blank.label}
        aria-required={blank.required}
        aria-invalid={problem !== null}
        inputMode={blank.kind === 'number' ? 'decimal' : undefined}
        className={`absolute border bg-transparent px-1 text-[#1a2f66] ${problem ? 'border-[#a23b2a]' : outline}`}
        style={{ ...box, fontSize: box.height * 0.72 }}
        maxLength={200}
        placeholder={blank.label}
        value={text}
        onChange={(event) => {
          setText(event.target.value)
          setProblem(null)
        }}
        onBlur={() => void leave()}
      />
      {problem && (
        <span
          role="alert"
          className="absolute z-10 border border-[#a23b2a] bg-white px-1.5 text-xs text-[#a23b2a]"
          style={{
            ...box,
            top: 'top' in box ? Number(box.top) + box.height + 2 : 0,
            height: 'auto',
            width: 'max-content',
          }}
        >
          {problem}
        </span>
      )}
    </>
  )
}

const OPTION = 9

/** Each option of a choice has its box; at most as many are ticked as may be. */
function ChoicePlaces({
  blank,
  scale,
  pointed,
  value,
  onValue,
  hold,
}: PlaceProps & { readonly scale: number; readonly pointed: boolean }) {
  const chosen = value?.kind === 'choice' ? value.chosen : []
  const { options = [], least = 0, most = 1 } = blank.rules
  const set = (at: number, on: boolean) => {
    const next =
      most === 1 ? (on ? [at] : []) : on ? [...chosen, at].slice(-most) : chosen.filter((each) => each !== at)
    // Too few is told at signing: one option after the other has to be touched.
    onValue(
      next.length >= Math.min(least, 1) && next.length > 0
        ? { kind: 'choice', chosen: next.sort((a, b) => a - b) }
        : null,
    )
  }
  return blank.options.map((place, at) => (
    <input
      key={at}
      ref={at === 0 ? hold : undefined}
      type={most === 1 ? 'radio' : 'checkbox'}
      name={blank.id}
      aria-label={`${blank.label}: ${options[at] ?? ''}`}
      className={`${BOX} ${pointed ? 'outline-2 outline-offset-2 outline-[#155e6b]' : ''}`}
      style={{ left: place.x * scale, top: place.y * scale, width: OPTION * scale, height: OPTION * scale }}
      checked={chosen.includes(at)}
      onChange={(event) => set(at, event.target.checked)}
    />
  ))
}
