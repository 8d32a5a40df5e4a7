import { formatsOf } from '#core/outline/field-kinds.ts'
import { Copy, Files, Rows3, Ruler, Trash2 } from 'lucide-react'
import { plainStyle } from '#core/document/template.ts'
import type { Placement, TextCue } from '#core/document/tree.ts'
import { passageTitle } from '#core/document/walk.ts'
import { BlankForm } from '#web/areas/templates/editor/blank-form.tsx'
import { Gap, Pop, Tool } from '#web/areas/templates/editor/tool.tsx'
import { ConditionForm } from '#web/areas/templates/condition/condition-form.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { Button } from '#web/parts/button.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { CueForm } from './cue-form.tsx'
import type { Placing } from './placing.ts'
import { Arrangements, DownTable, Letters, Place } from './chosen-tools.tsx'

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
          {formatsOf(field.type).map((format) => (
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
        <Tool label="Remove (Delete)" onClick={placing.remove}>
          <Trash2 size={15} />
        </Tool>
      </span>
    </div>
  )
}

const isTyped = (kind: string): boolean =>
  ['text', 'number', 'name', 'title', 'company', 'date'].includes(kind)

const short = (text: string): string => (text.length > 22 ? `${text.slice(0, 21)}…` : text)
