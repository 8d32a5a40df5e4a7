import { useState } from 'react'
import { words as setWords } from '#core/agreement/stamping.ts'
import { address } from '#web/api/client.ts'
import type { Blank, Value } from './fill-store.ts'
import { inkPath } from './ink-path.ts'
import { readPlaceText } from './place-text.ts'
import { handStyle } from './stamp.tsx'
import { useDocumentLanguage, useLabel, useWords } from './words.tsx'

/** A signature in the text, not in its place on the page. `token`: of the signing link. */
export function Signature({
  value,
  size,
  token,
}: {
  readonly value: Value
  readonly size: number
  readonly token: string
}) {
  const { say } = useWords()
  if (value.kind === 'picture')
    return (
      <img
        alt={say('page.image')}
        className="h-full max-w-full bg-white object-contain object-left"
        src={address('signingPicture', { params: { token, file: value.sha256 } })}
      />
    )
  if (value.kind === 'drawn')
    return (
      <svg
        viewBox={`0 0 1 ${value.height}`}
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
        ...handStyle(value.kind === 'typed' ? (value.script ?? 'quick') : 'print'),
        fontSize: size,
      }}
    >
      {value.kind === 'file' ? value.name : 'text' in value ? value.text : ''}
    </span>
  )
}

interface Props {
  readonly blank: Blank
  readonly page: number
  readonly scale: number
  readonly value: Value | undefined
  readonly pointed: boolean
  /** Opens the signature dialog, or puts in what was given before. */
  readonly onTouch: () => void
  readonly onValue: (value: Value | null) => void
  readonly hold: (element: HTMLElement | null) => void
}

/**
 * A box to tick, over the printed one; its cross is drawn with all that is filled in. The touch area is never smaller than 24
 * CSS pixels (WCAG 2.2, 2.5.8).
 */
const BOX =
  'absolute m-0 appearance-none border border-[#20242b] bg-[#155e6b]/8 before:absolute before:-inset-2 hover:bg-[#155e6b]/15 checked:border-transparent checked:bg-transparent'

/** CSS pixels of a point from which what is set at the size of print can be read and hit. */
const READABLE = 0.9

const TYPED = ['name', 'title', 'company', 'text', 'number']

/** One place to fill, on the page where it stands: an ink outline until it is filled. */
export function PlaceMark({ blank, page, scale, value, pointed, onTouch, onValue, hold }: Props) {
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
      <TypedPlace
        blank={blank}
        box={box}
        scale={scale}
        outline={outline}
        value={value}
        onValue={onValue}
        hold={hold}
      />
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
        page={page}
        scale={scale}
        pointed={pointed}
        value={value}
        onValue={onValue}
        hold={hold}
      />
    )
  const first = blank.options.find((option) => option.page === page)
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
      {!value && box.height > 24 && <span className="text-xs text-[#20242b]">{label}</span>}
    </button>
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
  scale,
  outline,
  value,
  onValue,
  hold,
}: PlaceProps & {
  readonly box: { readonly top: number; readonly height: number }
  readonly scale: number
  readonly outline: string
}) {
  const speaker = useWords()
  const document = useDocumentLanguage()
  const given = value?.kind === 'text' ? value.text : ''
  const [text, setText] = useState(given || (blank.rules.preset ?? ''))
  const [problem, setProblem] = useState<string | null>(null)
  const [typing, setTyping] = useState(false)
  const set = setWords(blank, 'print', text)
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
        // What is kept is drawn with all that is filled in; here it is seen while it is typed.
        className={`absolute border bg-transparent ${problem ? 'border-[#a23b2a]' : outline} ${typing || problem ? 'z-10 bg-white text-[#1a2f66]' : 'text-transparent'}`}
        style={{
          ...box,
          ...handStyle('print'),
          fontSize: set.size * scale,
          paddingInline: (set.x - blank.x) * scale,
          paddingTop: Math.max(0, set.y - blank.y - set.size) * scale,
        }}
        maxLength={200}
        placeholder={blank.label}
        value={text}
        onFocus={() => setTyping(true)}
        onChange={(event) => {
          setText(event.target.value)
          setProblem(null)
        }}
        onBlur={() => {
          void leave().then(() => setTyping(false))
        }}
      />
      {problem && (
        <span
          role="alert"
          className="absolute z-10 border border-[#a23b2a] bg-white px-1.5 text-xs text-[#a23b2a]"
          style={{
            ...box,
            top: box.top + box.height + 2,
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

/** Each option of a choice has its box; at most as many are ticked as may be. */
function ChoicePlaces({
  blank,
  page,
  scale,
  pointed,
  value,
  onValue,
  hold,
}: PlaceProps & { readonly page: number; readonly scale: number; readonly pointed: boolean }) {
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
  return blank.options.map(
    (place, at) =>
      place.page === page && (
        <input
          key={at}
          ref={at === 0 ? hold : undefined}
          type={most === 1 ? 'radio' : 'checkbox'}
          name={blank.id}
          aria-label={`${blank.label}: ${options[at] ?? ''}`}
          className={`${BOX} ${pointed ? 'outline-2 outline-offset-2 outline-[#155e6b]' : ''}`}
          style={{
            left: place.x * scale,
            top: place.y * scale,
            width: blank.width * scale,
            height: blank.height * scale,
          }}
          checked={chosen.includes(at)}
          onChange={(event) => set(at, event.target.checked)}
        />
      ),
  )
}
