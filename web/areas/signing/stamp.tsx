import { type CSSProperties, useEffect, useState } from 'react'
import { FACES, type Hand, type StampPart, stampParts, type WordsPart } from '#core/agreement/stamping.ts'
import { address } from '#web/api/client.ts'
import { outlinePath } from './ink-path.ts'
import type { Blank, Values } from './fill-store.ts'

const INK = '#1a2f66'

/** A hand that signatures are typed in, or the face of all else, as the executed document has it. */
export const handStyle = (hand: Hand): CSSProperties => ({
  fontFamily: FACES[hand].font,
  fontWeight: FACES[hand].weight,
})

/** What is filled in, as parts to be drawn: on all pages, so that no page works it out again. */
export const partsOf = (blanks: readonly Blank[], values: Values): readonly StampPart[] =>
  blanks.flatMap((blank) => {
    const { preset } = blank.rules
    const value = values[blank.id] ?? (preset ? { kind: 'text' as const, text: preset } : null)
    return value ? stampParts(blank, value, blank.kind === 'signature') : []
  })

/**
 * What is filled in on a page, drawn where and as the sealed file will have it. `scale`: CSS pixels of a point. `token`: of the
 * signing link, for pictures of signatures.
 */
export function Stamps({
  page,
  size,
  scale,
  token,
  parts,
}: {
  readonly page: number
  readonly size: { readonly width: number; readonly height: number }
  readonly scale: number
  readonly token: string
  readonly parts: readonly StampPart[]
}) {
  return (
    <svg
      aria-hidden
      className="pointer-events-none absolute top-0 left-0"
      width={size.width * scale}
      height={size.height * scale}
      viewBox={`0 0 ${size.width} ${size.height}`}
      fill={INK}
    >
      {parts
        .filter((part) => part.page === page)
        .map((part, i) => (
          <Part key={i} part={part} token={token} />
        ))}
    </svg>
  )
}

function Part({ part, token }: { readonly part: StampPart; readonly token: string }) {
  switch (part.kind) {
    case 'text':
      return <Words part={part} />
    case 'ink':
      return (
        <path
          transform={`translate(${part.x} ${part.y}) scale(${part.scale})`}
          d={part.outlines.map(outlinePath).join('')}
          fillRule="nonzero"
        />
      )
    case 'lines':
      return part.lines.map(([x1, y1, x2, y2], i) => (
        <line key={i} x1={x1} y1={y1} x2={x2} y2={y2} stroke={INK} strokeWidth={part.width} />
      ))
    case 'picture':
      return (
        <image
          href={address('signingPicture', { params: { token, file: part.sha256 } })}
          x={part.x}
          y={part.y}
          width={part.width}
          height={part.height}
          preserveAspectRatio="xMidYMid meet"
        />
      )
    default:
      return part satisfies never
  }
}

/** Text is measured large, so that rounding to pixels has no say in it. */
const MEASURED_AT = 200

function Words({ part }: { readonly part: WordsPart }) {
  const { font, weight } = FACES[part.hand]
  const wide = useWidth(part.text, `${weight} ${MEASURED_AT}px "${font}"`) * (part.size / MEASURED_AT)
  const width = Math.min(wide, part.room)
  const size = wide > width ? part.size * (width / wide) : part.size
  return (
    <text
      x={part.x}
      y={part.y}
      fontSize={size}
      fontFamily={`"${font}"`}
      fontWeight={weight}
      textRendering="geometricPrecision"
      // Upright text is set on whole pixels, a third of a millimetre on some screens. What is turned is not, by however
      // little: a fiftieth of a degree moves the ends of a text as wide as the page by a thirtieth of a millimetre.
      transform={`rotate(0.02 ${part.x + width / 2} ${part.y})`}
      {...(width > 0 ? { textLength: width } : {})}
      style={{ whiteSpace: 'pre', fontVariantNumeric: 'normal' }}
    >
      {part.text}
    </text>
  )
}

/** What texts are measured with. */
let pen: CanvasRenderingContext2D | null = null

/** Width of a text in a font (CSS), once its face is here. */
function useWidth(text: string, font: string): number {
  const [, setLoaded] = useState(false)
  useEffect(() => {
    let current = true
    void document.fonts.load(font, text).then(() => current && setLoaded(true))
    return () => {
      current = false
    }
  }, [font, text])
  pen ??= document.createElement('canvas').getContext('2d')!
  pen.font = font
  return pen.measureText(text).width
}
