import { FIELD_TYPES, type FieldType, formatsOf } from '#core/outline/field-kinds.ts'
import { Trash2 } from 'lucide-react'
import { useMemo, useState } from 'react'
import { nameFromColumn } from '#core/mapping/from-columns.ts'
import { renameField } from '#core/merge/rename.ts'
import { type Field, fieldNameProblem, nameTypes } from '#core/outline/field.ts'
import { defaultFormat } from '#core/text/format.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { Button } from '#web/parts/button.tsx'
import { Input, Labelled, Select, TextArea } from '#web/parts/input.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { FieldFormula } from './field-formula.tsx'
import { ListItems } from './list-items.tsx'
import { useFieldChange } from './use-field-change.ts'

interface Props {
  readonly field: Field
  /** Its whole name, that of its list before it. */
  readonly full: string
  /** Places of the template that name it. */
  readonly uses: number
  /** The list whose items it is a field of. */
  readonly list?: Field | null
  readonly onRenamed: (name: string) => void
}

type Set = (more: Partial<Field>) => void

/** What a field is: its name, type, format, default, choices, formula, items. */
export function FieldForm({ onRemoved, ...props }: Props & { readonly onRemoved: () => void }) {
  const { field, full, uses, list = null } = props
  const { editable, namesIn } = useStudio()
  const say = useNotice()
  const put = useFieldChange(full, list)
  const set: Set = (more) => put((before) => ({ ...before, ...more }), `field ${full}`)
  const names = useMemo(
    () => (list ? new Map([...namesIn(list.name), ...nameTypes(list.items ?? [])]) : namesIn(null)),
    [namesIn, list],
  )
  return (
    <fieldset
      disabled={!editable}
      className="mb-3 grid grid-cols-2 gap-x-4 gap-y-2 border-l-2 border-hair py-1 pl-4"
    >
      <Names {...props} set={set} />
      <TypeOf field={field} inList={list !== null} set={set} onType={(next) => put(next)} />
      <Given field={field} set={set} />
      {field.type !== 'list' && (
        <FieldFormula
          field={field}
          names={names}
          inList={list !== null}
          onChange={(next) => put(next, `field ${full}`)}
        />
      )}
      {field.type === 'list' && <ListItems list={field} form={FieldForm} />}
      <div className="col-span-2 flex justify-end">
        <Button
          kind="danger"
          onClick={() => {
            put(() => null)
            onRemoved()
            say(
              uses > 0
                ? `“${field.label}” is removed; it is still used in ${plural(uses, 'place')}. Undo brings it back.`
                : `“${field.label}” is removed.`,
            )
          }}
        >
          <Trash2 size={13} /> Remove field
        </Button>
      </div>
    </fieldset>
  )
}

/** What it is called, and its name in the text, which follows what it is called until it was chosen. */
function Names({ field, full, uses, list = null, onRenamed, set }: Props & { readonly set: Set }) {
  const { content, change } = useStudio()
  const say = useNotice()
  const [name, setName] = useState(field.name)
  const siblings = list ? (list.items ?? []) : content.outline
  const taken = name !== field.name && siblings.some((each) => each.name === name)
  const nameFault = fieldNameProblem(name) ?? (taken ? `There is a field “${name}” already.` : null)
  const renameTo = (wanted: string) => {
    const to = list ? `${list.name}.${wanted}` : wanted
    const renamed = renameField(content, full, to)
    change(() => renamed.content)
    onRenamed(to)
    return renamed.places
  }
  const rename = () => {
    if (nameFault || name === field.name) return
    const places = renameTo(name)
    say(`“${field.name}” is “${name}” now, in ${plural(places, 'place')}.`)
  }
  // A name that was made from what the field was called goes on following it; one that was chosen stays.
  const [labelled, setLabelled] = useState(field.label)
  const follow = () => {
    setLabelled(field.label)
    const group = field.name.slice(0, field.name.lastIndexOf('.') + 1)
    const wanted = group + nameFromColumn(field.label)
    const follows = field.name === group + nameFromColumn(labelled)
    if (!follows || !field.label.trim() || wanted === field.name) return
    if (fieldNameProblem(wanted) || siblings.some((each) => each.name === wanted)) return
    renameTo(wanted)
    setName(wanted)
  }
  return (
    <>
      <Labelled label="Label">
        <Input
          autoFocus
          value={field.label}
          onFocus={(event) => event.target.select()}
          onChange={(event) => set({ label: event.target.value })}
          onBlur={follow}
        />
      </Labelled>
      <Labelled
        label="Name in the text"
        hint={
          name === field.name
            ? `used in ${plural(uses, 'place')}`
            : (nameFault ?? `Enter renames it in ${plural(uses, 'place')}`)
        }
      >
        <Input
          className="font-mono"
          value={name}
          aria-invalid={nameFault !== null}
          onChange={(event) => setName(event.target.value)}
          onBlur={rename}
          onKeyDown={(event) => event.key === 'Enter' && (event.preventDefault(), rename())}
        />
      </Labelled>
    </>
  )
}

/** Its type, and what only that type has. */
function TypeOf({
  field,
  inList,
  set,
  onType,
}: {
  readonly field: Field
  readonly inList: boolean
  readonly set: Set
  readonly onType: (next: () => Field) => void
}) {
  return (
    <>
      <Labelled label="Type">
        <Select
          value={field.type}
          onChange={(event) => {
            const type = event.target.value as FieldType
            const { format: _format, ...rest } = field
            onType(() => ({
              ...rest,
              type,
              ...(type === 'money' && !field.currency ? { currency: 'USD' } : {}),
              ...(type === 'choice' && !field.choices ? { choices: ['yes', 'no'] } : {}),
              ...(type === 'list' && !field.items
                ? { items: [{ name: 'description', label: 'Description', type: 'text', required: true }] }
                : {}),
            }))
          }}
        >
          {FIELD_TYPES.filter((type) => !inList || type !== 'list').map((type) => (
            <option key={type}>{type}</option>
          ))}
        </Select>
      </Labelled>
      {field.type !== 'list' && (
        <Labelled label="Display format">
          <Select value={defaultFormat(field)} onChange={(event) => set({ format: event.target.value })}>
            {formatsOf(field.type).map((format) => (
              <option key={format}>{format}</option>
            ))}
          </Select>
        </Labelled>
      )}
      {field.type === 'money' && (
        <Labelled label="Currency" hint="ISO 4217">
          <Input
            maxLength={3}
            value={field.currency ?? ''}
            onChange={(event) =>
              /^[A-Za-z]{3}$/.test(event.target.value) && set({ currency: event.target.value.toUpperCase() })
            }
          />
        </Labelled>
      )}
      {field.type === 'choice' && (
        <Labelled label="Choices, one on each line">
          <TextArea
            rows={3}
            value={(field.choices ?? []).join('\n')}
            onChange={(event) => set({ choices: event.target.value.split('\n') })}
            onBlur={() => set({ choices: (field.choices ?? []).map((each) => each.trim()).filter(Boolean) })}
          />
        </Labelled>
      )}
    </>
  )
}

/** What is said of the values that are given for it. */
function Given({ field, set }: { readonly field: Field; readonly set: Set }) {
  return (
    <>
      {field.type !== 'list' && field.computed === undefined && (
        <>
          <Labelled label="Default" hint="used if a row has no value">
            <Input
              value={field.default ?? ''}
              onChange={(event) => set({ default: event.target.value || undefined })}
            />
          </Labelled>
          <Labelled label="Example">
            <Input
              value={field.example ?? ''}
              onChange={(event) => set({ example: event.target.value || undefined })}
            />
          </Labelled>
        </>
      )}
      <Labelled label="Help text">
        <Input
          value={field.help ?? ''}
          onChange={(event) => set({ help: event.target.value || undefined })}
        />
      </Labelled>
      {field.computed === undefined && (
        <label className="flex items-center gap-2 self-end pb-1 text-sm">
          <input
            type="checkbox"
            checked={field.required}
            onChange={(event) => set({ required: event.target.checked })}
          />{' '}
          required
        </label>
      )}
    </>
  )
}
