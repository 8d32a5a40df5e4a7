import {
  AlignCenterHorizontal,
  AlignCenterVertical,
  AlignEndHorizontal,
  AlignEndVertical,
  AlignHorizontalDistributeCenter,
  AlignStartHorizontal,
  AlignStartVertical,
  AlignVerticalDistributeCenter,
  Copy,
  Files,
  Rows3,
  Ruler,
  Scaling,
  Trash2,
  Type,
} from 'lucide-react'
import { type ReactNode, useState } from 'react'
import { plainStyle } from '#core/document/template.ts'
import { PLACED_FONTS, type PlacedStyle, type Placement, type TextCue } from '#core/document/tree.ts'
import { passageTitle } from '#core/document/walk.ts'
import { DISPLAY_FORMATS } from '#core/text/format.ts'
import { BlankForm } from '#web/areas/templates/editor/blank-form.tsx'
import { Gap, Pop, Tool } from '#web/areas/templates/editor/tool.tsx'
import { ConditionForm } from '#web/areas/templates/condition/condition-form.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { Button } from '#web/parts/button.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { CueForm } from './cue-form.tsx'
import type { Placing } from './placing.ts'

/** What is chosen on the pages and what can be done to it, below them. */
export function ChosenStrip({
  chosen,
  placing,
  proposedCue,
  onCue,
}: {
  readonly chosen: readonly Placement[]
  readonly placing: Placing
  readonly proposedCue: string
  readonly onCue: (id: string, cue: TextCue | null) => void
}) {
  const { all } = useStudio()
  const [one] = chosen
  if (!one)
    return (
      <p className="shrink-0 border-t border-hair px-3 py-2 text-xs text-soft">
        Click: put something there. Drag: in that size. Shift and drag: choose. Enter: without a pointer. Tab:
        from place to place.
      </p>
    )
  const single = chosen.length === 1 ? one : null
  const [first] = one.content
  const words = chosen.every(({ content }) => content[0]?.type !== 'blank' || isTyped(content[0].attrs.kind))
  const style = { ...plainStyle, ...one.attrs.style }
  const field = first?.type === 'mergeField' ? all.find(({ name }) => name === first.attrs.field) : undefined
  const cue = single?.attrs.cue
  return (
    <div
      role="toolbar"
      aria-label="What is chosen"
      className="flex shrink-0 flex-wrap items-center gap-x-1.5 gap-y-1 border-t border-hair bg-paper px-3 py-1.5 text-sm"
    >
      <span className="max-w-40 truncate font-semibold" title={single ? passageTitle(single) : undefined}>
        {single ? (field?.label ?? passageTitle(single)) : plural(chosen.length, 'place')}
      </span>
      {chosen.some(({ attrs }) => attrs.lost) && (
        <Button title="It was not found for sure in the other version" onClick={() => placing.standsRight()}>
          It stands right
        </Button>
      )}
      {single && first?.type === 'blank' && (
        <Pop label={first.attrs.kind} icon={null}>
          {(close) => (
            <BlankForm
              initial={{ ...first.attrs }}
              onSet={(attrs) => (placing.setBlank(single.attrs.id, attrs), close())}
            />
          )}
        </Pop>
      )}
      {single && first?.type === 'text' && (
        <input
          aria-label="Words"
          className="w-40 rounded-sm border border-hair bg-sheet px-1.5"
          value={first.text}
          maxLength={500}
          onChange={(event) =>
            placing.setContent(single.attrs.id, [
              { ...first, text: event.target.value },
              ...single.content.slice(1),
            ])
          }
        />
      )}
      {single && first?.type === 'mergeField' && field && (
        <select
          aria-label="Format"
          className="rounded-sm border border-hair bg-sheet px-1"
          value={first.attrs.format ?? ''}
          onChange={(event) =>
            placing.setContent(single.attrs.id, [
              { ...first, attrs: { ...first.attrs, format: event.target.value || null } },
              ...single.content.slice(1),
            ])
          }
        >
          <option value="">its usual format</option>
          {(DISPLAY_FORMATS[field.type] ?? []).map((format) => (
            <option key={format}>{format}</option>
          ))}
        </select>
      )}
      <Pop label={one.attrs.condition ? `where ${short(one.attrs.condition)}` : 'always'} icon={null}>
        {(close) => (
          <ConditionForm
            title="Stands only where"
            initial={one.attrs.condition ?? ''}
            repeat={null}
            clearLabel="Always"
            onSet={(condition) => (placing.setCondition(condition), close())}
            onCancel={close}
          />
        )}
      </Pop>
      {single && !single.attrs.of && (
        <Pop
          label={
            cue
              ? `beside “${short(cue.phrase)}”${cue.nth === 'every' ? ', every' : ''}`
              : 'keep distance to …'
          }
          icon={<Ruler size={14} />}
        >
          {(close) => (
            <CueForm
              placement={single}
              proposed={proposedCue}
              onSet={(next) => (onCue(single.attrs.id, next), close())}
            />
          )}
        </Pop>
      )}
      {words && <Letters style={style} placing={placing} />}
      <span className="ml-auto flex items-center">
        {chosen.length > 1 ? (
          <Arrangements placing={placing} />
        ) : (
          single && <Place placement={single} placing={placing} />
        )}
        <Gap />
        <Tool label="Copies down a table" onClick={() => placing.downTable(1, one.attrs.height + 4)}>
          <Copy size={15} />
        </Tool>
        <Pop label="" icon={<Rows3 size={15} aria-label="Down the rows of a table" />}>
          {(close) => (
            <DownTable
              apart={one.attrs.height + 4}
              onSet={(times, apart) => (placing.downTable(times, apart), close())}
            />
          )}
        </Pop>
        <Tool label="On every page" onClick={placing.onEveryPage}>
          <Files size={15} />
        </Tool>
        <Tool label="Take away (Delete)" onClick={placing.remove}>
          <Trash2 size={15} />
        </Tool>
      </span>
    </div>
  )
}

const SIDES = { left: 'left', center: 'centred', right: 'right' } as const

/** How words are set: in one line what is set, and a form for it. */
function Letters({ style, placing }: { readonly style: PlacedStyle; readonly placing: Placing }) {
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

const isTyped = (kind: string): boolean =>
  ['text', 'number', 'name', 'title', 'company', 'date'].includes(kind)

const short = (text: string): string => (text.length > 22 ? `${text.slice(0, 21)}…` : text)

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

function Place({ placement, placing }: { readonly placement: Placement; readonly placing: Placing }) {
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

function Arrangements({ placing }: { readonly placing: Placing }) {
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

function DownTable({
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
