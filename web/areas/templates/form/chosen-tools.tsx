import {
  AlignCenterHorizontal,
  AlignCenterVertical,
  AlignEndHorizontal,
  AlignEndVertical,
  AlignHorizontalDistributeCenter,
  AlignStartHorizontal,
  AlignStartVertical,
  AlignVerticalDistributeCenter,
  Scaling,
  Type,
} from 'lucide-react'
import { type ReactNode, useState } from 'react'
import { PLACED_FONTS, type PlacedStyle, type Placement } from '#core/document/tree.ts'
import { Pop, Tool } from '#web/areas/templates/editor/tool.tsx'
import { Button } from '#web/parts/button.tsx'
import type { Placing } from './placing.ts'

const SIDES = { left: 'left', center: 'centred', right: 'right' } as const

/** How words are set: in one line what is set, and a form for it. */
export function Letters({ style, placing }: { readonly style: PlacedStyle; readonly placing: Placing }) {
  const said = [
    `${style.font} ${style.size}`,
    SIDES[style.align],
    style.comb === null ? null : `${style.comb} cells`,
    style.lines > 1 ? `${style.lines} lines` : null,
  ]
  return (
    <Pop label={said.filter(Boolean).join(', ')} icon={<Type size={14} aria-label="Letters" />}>
      {() => (
        <div className="flex w-64 flex-col gap-2 text-sm">
          <span className="flex items-center gap-2">
            <select
              aria-label="Letters"
              className="rounded-sm border border-hair bg-sheet px-1 py-0.5"
              value={style.font}
              onChange={(event) =>
                placing.setStyle({ font: PLACED_FONTS.find((font) => font === event.target.value) ?? 'sans' })
              }
            >
              {PLACED_FONTS.map((font) => (
                <option key={font}>{font}</option>
              ))}
            </select>
            <Figure
              label="Size"
              value={style.size}
              least={3}
              most={72}
              step={0.5}
              onSet={(size) => placing.setStyle({ size })}
            >
              pt
            </Figure>
            <select
              aria-label="Stands"
              className="rounded-sm border border-hair bg-sheet px-1 py-0.5"
              value={style.align}
              onChange={(event) => placing.setStyle({ align: event.target.value as PlacedStyle['align'] })}
            >
              {Object.entries(SIDES).map(([align, label]) => (
                <option key={align} value={align}>
                  {label}
                </option>
              ))}
            </select>
          </span>
          <span className="flex items-center gap-2">
            <label className="flex items-center gap-1">
              <input
                type="checkbox"
                checked={style.least !== null}
                onChange={(event) =>
                  placing.setStyle({ least: event.target.checked ? Math.min(6, style.size) : null })
                }
              />
              smaller where it does not fit
            </label>
            {style.least !== null && (
              <Figure
                label="Smallest size"
                value={style.least}
                least={2}
                most={style.size}
                step={0.5}
                onSet={(least) => placing.setStyle({ least })}
              >
                pt
              </Figure>
            )}
          </span>
          <span className="flex items-center gap-3">
            <Figure
              label="Lines"
              value={style.lines}
              least={1}
              most={200}
              step={1}
              onSet={(lines) => placing.setStyle({ lines })}
            >
              {style.lines === 1 ? 'line' : 'lines at most'}
            </Figure>
            <Figure
              label="Cells"
              value={style.comb ?? 0}
              least={0}
              most={200}
              step={1}
              onSet={(comb) => placing.setStyle({ comb: comb || null })}
            >
              cells, a letter in each
            </Figure>
          </span>
        </div>
      )}
    </Pop>
  )
}

function Figure({
  label,
  value,
  least,
  most,
  step,
  onSet,
  children,
}: {
  readonly label: string
  readonly value: number
  readonly least: number
  readonly most: number
  readonly step: number
  readonly onSet: (value: number) => void
  readonly children?: ReactNode
}) {
  return (
    <label className="flex items-center gap-0.5 text-soft">
      <input
        type="number"
        aria-label={label}
        className="w-11 rounded-sm border border-hair bg-sheet px-1 text-right text-ink tabular-nums [appearance:textfield] [&::-webkit-inner-spin-button]:appearance-none"
        value={Math.round(value * 100) / 100}
        min={least}
        max={most}
        step={step}
        onChange={(event) => {
          const next = Number(event.target.value)
          if (event.target.value !== '' && next >= least && next <= most) onSet(next)
        }}
      />
      {children}
    </label>
  )
}

/** Position and size of what is chosen, in points. */
export function Place({ placement, placing }: { readonly placement: Placement; readonly placing: Placing }) {
  const { id, x, y, width, height } = placement.attrs
  const set = (more: Partial<Record<'x' | 'y' | 'width' | 'height', number>>) =>
    placing.setBox(id, { x, y, width, height, ...more }, 'place')
  const sides = [
    ['From the left', 'x', x],
    ['From the top', 'y', y],
    ['Width', 'width', width],
    ['Height', 'height', height],
  ] as const
  return (
    <span className="flex items-center gap-1 text-xs">
      {sides.map(([label, side, value]) => (
        <Figure
          key={side}
          label={`${label}, points`}
          value={value}
          least={side === 'x' || side === 'y' ? 0 : 4}
          most={14_000}
          step={1}
          onSet={(next) => set({ [side]: next })}
        />
      ))}
      <span className="text-soft">pt</span>
    </span>
  )
}

/** Aligns and spreads what is chosen. */
export function Arrangements({ placing }: { readonly placing: Placing }) {
  const align = (edge: 'left' | 'center' | 'right' | 'top' | 'middle' | 'bottom') => () =>
    placing.arrange({ act: 'align', edge })
  return (
    <>
      <Tool label="Left edges in line" onClick={align('left')}>
        <AlignStartVertical size={15} />
      </Tool>
      <Tool label="Middles in line, across" onClick={align('center')}>
        <AlignCenterVertical size={15} />
      </Tool>
      <Tool label="Right edges in line" onClick={align('right')}>
        <AlignEndVertical size={15} />
      </Tool>
      <Tool label="Top edges in line" onClick={align('top')}>
        <AlignStartHorizontal size={15} />
      </Tool>
      <Tool label="Middles in line, down" onClick={align('middle')}>
        <AlignCenterHorizontal size={15} />
      </Tool>
      <Tool label="Lower edges in line" onClick={align('bottom')}>
        <AlignEndHorizontal size={15} />
      </Tool>
      <Tool label="Same gaps across" onClick={() => placing.arrange({ act: 'distribute', way: 'across' })}>
        <AlignHorizontalDistributeCenter size={15} />
      </Tool>
      <Tool label="Same gaps down" onClick={() => placing.arrange({ act: 'distribute', way: 'down' })}>
        <AlignVerticalDistributeCenter size={15} />
      </Tool>
      <Tool
        label="Same size as the first"
        onClick={() => placing.arrange({ act: 'same size', side: 'both' })}
      >
        <Scaling size={15} />
      </Tool>
    </>
  )
}

/** Copies of a place down the rows of a table. */
export function DownTable({
  apart,
  onSet,
}: {
  readonly apart: number
  readonly onSet: (times: number, apart: number) => void
}) {
  const [times, setTimes] = useState(5)
  const [step, setStep] = useState(Math.round(apart * 10) / 10)
  return (
    <form
      className="w-60 text-sm"
      onSubmit={(event) => {
        event.preventDefault()
        onSet(times, step)
      }}
    >
      <p className="mb-2 font-semibold">Down the rows of a table</p>
      <div className="flex gap-3">
        <Figure label="More rows" value={times} least={1} most={200} step={1} onSet={setTimes}>
          more rows
        </Figure>
        <Figure label="Height of a row" value={step} least={4} most={400} step={0.5} onSet={setStep}>
          pt apart
        </Figure>
      </div>
      <div className="mt-3 flex justify-end">
        <Button kind="main" type="submit">
          Place them
        </Button>
      </div>
    </form>
  )
}
