import { useState } from 'react'
import type { Signing } from '#contract/agreement.ts'

export type Blank = Signing['blanks'][number]
export type Value = Signing['values'][string]

/** Strokes of a drawn signature as an SVG path, in a box as wide as 100. */
export const strokePath = (strokes: readonly (readonly (readonly [number, number])[])[]) =>
  strokes
    .map(
      (stroke) =>
        stroke
          .map(([x, y], i) => `${i ? 'L' : 'M'}${(x * 100).toFixed(1)} ${(y * 100).toFixed(1)}`)
          .join('') + (stroke.length === 1 ? 'l.1 0' : ''),
    )
    .join('')

export function Signature({ value, size }: { readonly value: Value; readonly size: number }) {
  if (value.kind === 'drawn')
    return (
      <svg
        viewBox={`0 0 100 ${value.height * 100}`}
        className="h-full w-full"
        preserveAspectRatio="xMinYMax meet"
        aria-hidden
      >
        <path
          d={strokePath(value.strokes)}
          fill="none"
          stroke="#1a2f66"
          strokeWidth="1.6"
          strokeLinecap="round"
          strokeLinejoin="round"
        />
      </svg>
    )
  return (
    <span
      className="block truncate leading-none font-semibold text-[#1a2f66]"
      style={{ fontFamily: value.kind === 'typed' ? 'var(--font-hand)' : 'var(--font-sans)', fontSize: size }}
    >
      {value.text}
    </span>
  )
}

interface Props {
  readonly blank: Blank
  readonly scale: number
  readonly value: Value | undefined
  readonly pointed: boolean
  readonly onTouch: () => void
  readonly onText: (text: string) => void
  readonly hold: (element: HTMLElement | null) => void
}

/** One place to fill, on the page where it stands: an ink outline until it is filled. */
export function PlaceMark({ blank, scale, value, pointed, onTouch, onText, hold }: Props) {
  const [text, setText] = useState(value?.kind === 'text' ? value.text : '')
  const box = {
    left: blank.x * scale,
    top: blank.y * scale,
    width: blank.width * scale,
    height: blank.height * scale,
  }
  const outline = value
    ? 'border-transparent hover:border-[#20242b]'
    : `border-[#20242b] ${pointed ? 'bg-[#155e6b]/20 outline-2 outline-offset-2 outline-[#155e6b]' : 'bg-[#155e6b]/8 hover:bg-[#155e6b]/15'}`
  if (blank.kind === 'date')
    return (
      <span
        className="absolute flex items-end text-[#5f5b53]"
        style={{ ...box, fontSize: box.height * 0.6 }}
        title="The day you sign is entered by itself"
      >
        day of signing
      </span>
    )
  if (blank.kind === 'text')
    return (
      <input
        ref={hold}
        aria-label={blank.label}
        aria-required={blank.required}
        className={`absolute border bg-transparent px-1 text-[#1a2f66] ${outline}`}
        style={{ ...box, fontSize: box.height * 0.72 }}
        maxLength={200}
        placeholder={blank.label}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => text.trim() !== (value?.kind === 'text' ? value.text : '') && onText(text.trim())}
      />
    )
  return (
    <button
      ref={hold}
      onClick={onTouch}
      aria-label={`${blank.label}${value ? ', filled; touch to change' : ''}`}
      // The touch area is never smaller than 24 CSS pixels (WCAG 2.2, 2.5.8), however small the page is drawn.
      className={`absolute flex items-end border px-0.5 text-left before:absolute before:top-1/2 before:left-1/2 before:h-full before:min-h-6 before:w-full before:min-w-6 before:-translate-x-1/2 before:-translate-y-1/2 ${outline}`}
      style={box}
    >
      {value ? (
        <Signature value={value} size={Math.min(box.height * 0.8, 26 * scale)} />
      ) : (
        box.height > 24 && <span className="text-xs text-[#20242b]">{blank.label}</span>
      )}
    </button>
  )
}
