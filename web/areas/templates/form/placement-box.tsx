import { memo } from 'react'
import type { Placement } from '#core/document/tree.ts'
import { plainStyle, type SignerRole } from '#core/document/template.ts'
import { RoleMark } from '#web/parts/signs/role-mark.tsx'

interface Props {
  readonly placement: Placement
  readonly scale: number
  readonly chosen: boolean
  /** Handles are shown: it is the only one chosen. */
  readonly alone: boolean
  readonly roles: readonly SignerRole[]
  readonly labelOf: (field: string) => string
  readonly editable: boolean
}

/** Edges and corners to pull at, by where they lie. */
export const HANDLES = ['nw', 'n', 'ne', 'e', 'se', 's', 'sw', 'w'] as const
export type Handle = (typeof HANDLES)[number]

const AT: Readonly<Record<Handle, string>> = {
  nw: '-left-1 -top-1 cursor-nwse-resize',
  n: 'left-1/2 -ml-1 -top-1 cursor-ns-resize',
  ne: '-right-1 -top-1 cursor-nesw-resize',
  e: '-right-1 top-1/2 -mt-1 cursor-ew-resize',
  se: '-right-1 -bottom-1 cursor-nwse-resize',
  s: 'left-1/2 -ml-1 -bottom-1 cursor-ns-resize',
  sw: '-left-1 -bottom-1 cursor-nesw-resize',
  w: '-left-1 top-1/2 -mt-1 cursor-ew-resize',
}

const FONTS = { sans: 'var(--font-sans)', serif: 'var(--font-serif)', typewriter: 'monospace' } as const

/** One placement as ink on the page: an outline, of a blank with its role’s shape at the left end. */
export const PlacementBox = memo(function PlacementBox({
  placement,
  scale,
  chosen,
  alone,
  roles,
  labelOf,
  editable,
}: Props) {
  const { attrs, content } = placement
  const { id, x, y, width, height, style = plainStyle, ticks, cue } = attrs
  const [first] = content
  const blank = first?.type === 'blank' ? first.attrs : null
  const role = blank ? roles.find(({ key }) => key === blank.role) : undefined
  const said = blank
    ? blank.label
    : content
        .map((part) =>
          part.type === 'mergeField'
            ? `{${labelOf(part.attrs.field)}}`
            : part.type === 'text'
              ? part.text
              : '',
        )
        .join('')
  const name = blank
    ? `${blank.label}, ${blank.kind} of ${role?.label ?? 'nobody'}`
    : `${said}, ${first?.type === 'mergeField' ? 'merge field' : 'words'}`
  const small = height * scale < 13
  return (
    <>
      <div
        role="button"
        tabIndex={-1}
        aria-pressed={chosen}
        title={cue ? `${name}; keeps its distance to “${cue.phrase}”` : name}
        data-placement={id}
        className={`group absolute box-border select-none ${chosen ? 'z-20 outline-2 outline-petrol' : 'z-10'} ${
          blank ? 'border border-ink/70 bg-petrol/5' : 'border border-dashed border-soft bg-ochre-wash/40'
        } ${editable ? 'cursor-move' : ''}`}
        style={{ left: x * scale, top: y * scale, width: width * scale, height: height * scale }}
      >
        <span className="sr-only">{name}</span>
        <span
          className="pointer-events-none absolute inset-0 flex items-end overflow-hidden leading-none whitespace-nowrap text-ink"
          style={{
            fontSize: Math.max(6, (blank ? Math.min(9, height * 0.7) : style.size) * scale),
            fontFamily: blank ? undefined : FONTS[style.font],
            justifyContent: style.align === 'center' ? 'center' : style.align === 'right' ? 'end' : 'start',
            paddingLeft: blank ? 2 : 0,
            paddingBottom: small ? 0 : 2.2 * scale,
          }}
        >
          {blank && role && blank.kind !== 'tick' && (
            <span
              aria-hidden
              className="mr-0.5 flex h-full shrink-0 items-center py-px [&>svg]:h-full [&>svg]:max-h-[18px] [&>svg]:w-auto"
            >
              <RoleMark shape={role.shape} letter={role.label} />
            </span>
          )}
          {blank?.kind === 'tick' || ticks ? null : (
            <span aria-hidden className={blank ? 'truncate pb-px text-soft' : ''}>
              {said}
            </span>
          )}
        </span>
        {blank?.kind === 'tick' && role && (
          <span
            aria-hidden
            className="pointer-events-none absolute top-1/2 right-full mr-0.5 -translate-y-1/2 [&>svg]:h-full [&>svg]:w-auto"
            style={{ height: Math.min(18, Math.max(9, height * scale * 1.2)) }}
          >
            <RoleMark shape={role.shape} letter={role.label} />
          </span>
        )}
        {blank?.required && (
          <span
            aria-hidden
            className="pointer-events-none absolute -top-1.5 -right-1 text-xs leading-none text-ochre"
          >
            •
          </span>
        )}
        {alone &&
          editable &&
          HANDLES.map((handle) => (
            <span
              key={handle}
              data-handle={handle}
              className={`absolute z-30 size-2 border border-petrol bg-white ${AT[handle]}`}
            />
          ))}
      </div>
      {ticks?.at.map((at, i) => (
        <span
          key={i}
          className="pointer-events-none absolute z-10 border border-petrol/70"
          style={{
            left: at.x * scale,
            top: at.y * scale,
            width: ticks.size * scale,
            height: ticks.size * scale,
          }}
        />
      ))}
    </>
  )
})
