import { useMemo, useState } from 'react'
import { BLANK_KINDS, type BlankKind, type BlankPlace } from '#core/document/tree.ts'
import { expressionFaults } from '#core/merge/faults.ts'
import { fieldsByName } from '#core/outline/field.ts'
import { Button } from '#web/parts/button.tsx'
import { Input, TextArea } from '#web/parts/input.tsx'
import { RoleMark } from '#web/parts/signs/role-mark.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'

type Attributes = Omit<BlankPlace['attrs'], 'id'>

const KIND_HELP: Record<BlankKind, string> = {
  signature: 'typed or drawn',
  initials: 'in this place',
  date: 'day of signing, by itself',
  name: 'own name, known already',
  title: 'own title',
  company: 'own company',
  text: 'a line of text',
  number: 'a figure',
  tick: 'a box to tick',
  choice: 'one or some of several',
  file: 'a file to upload',
}

const KEYS: Partial<Record<string, BlankKind>> = {
  s: 'signature',
  i: 'initials',
  d: 'date',
  t: 'text',
  n: 'number',
  x: 'tick',
  c: 'choice',
  f: 'file',
}

interface PartProps {
  readonly attrs: Attributes
  readonly set: (more: Partial<Attributes>) => void
}

/** What a signer fills in at a place: whose it is, its kind, and its rules. */
export function BlankForm({
  initial,
  onSet,
}: {
  readonly initial: Readonly<Record<string, unknown>> | null
  readonly onSet: (attrs: Attributes) => void
}) {
  const { content } = useStudio()
  const [attrs, setAttrs] = useState<Attributes>(() => ({
    kind: 'text',
    role: content.roles[0]?.key ?? '',
    label: '',
    required: true,
    ...(initial as Partial<Attributes> | null),
  }))
  const set = (more: Partial<Attributes>) => setAttrs((before) => ({ ...before, ...more }))
  const fault = useMemo(() => {
    const names = new Map([['value', attrs.kind === 'number' ? ('number' as const) : ('string' as const)]])
    return attrs.check ? (expressionFaults(attrs.check, names)[0]?.message ?? null) : null
  }, [attrs.check, attrs.kind])
  if (content.roles.length === 0)
    return <p className="w-64 text-sm text-soft">A blank belongs to a role. Add a role under Roles first.</p>
  const part = { attrs, set }
  return (
    <form
      className="w-80 text-sm"
      onSubmit={(event) => {
        event.preventDefault()
        if (!fault) onSet({ ...attrs, label: attrs.label.trim() || attrs.kind })
      }}
      onKeyDown={(event) => {
        if (event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement) return
        const kind = KEYS[event.key]
        const role = content.roles[Number(event.key) - 1]
        if (kind) set({ kind })
        else if (role) set({ role: role.key })
      }}
    >
      <RoleAndKind {...part} />
      <p className="mt-2 text-xs text-soft">label that the signer reads</p>
      <Input
        aria-label="What to fill in"
        placeholder="What to fill in"
        className="mt-2"
        value={attrs.label}
        onChange={(event) => set({ label: event.target.value })}
      />
      <label className="mt-2 flex items-center gap-2">
        <input
          type="checkbox"
          checked={attrs.required}
          onChange={(event) => set({ required: event.target.checked })}
        />{' '}
        required
      </label>
      {attrs.kind === 'choice' && <OptionRules {...part} />}
      {attrs.kind === 'tick' && <TickRules {...part} />}
      {(attrs.kind === 'text' || attrs.kind === 'number') && <TextRules {...part} fault={fault} />}
      <p className="mt-2 text-xs text-soft">shown only if (a condition); empty: always</p>
      <Input
        aria-label="Condition of the blank"
        className="mt-0.5 font-mono"
        placeholder="leased"

        value={attrs.condition ?? ''}
        onChange={(event) => set({ condition: event.target.value || null })}
      />
      <div className="mt-3 flex justify-end">
        <Button kind="main" type="submit" disabled={fault !== null}>
          {initial ? 'Set' : 'Insert'}
        </Button>
      </div>
    </form>
  )
}

function RoleAndKind({ attrs, set }: PartProps) {
  const { content } = useStudio()
  return (
    <>
      <div className="flex flex-wrap gap-1" role="radiogroup" aria-label="Role">
        {content.roles.map((role, i) => (
          <button
            key={role.key}
            type="button"
            role="radio"
            aria-checked={attrs.role === role.key}
            title={`Key ${i + 1}`}
            className={`flex items-center gap-1 rounded-sm border px-2 py-0.5 ${attrs.role === role.key ? 'border-petrol bg-petrol-wash' : 'border-hair'}`}
            onClick={() => set({ role: role.key })}
          >
            <RoleMark shape={role.shape} letter={role.label} /> {role.label}
          </button>
        ))}
      </div>
      <div className="mt-2 grid grid-cols-4 gap-1" role="radiogroup" aria-label="Kind">
        {BLANK_KINDS.map((kind) => (
          <button
            key={kind}
            type="button"
            role="radio"
            aria-checked={attrs.kind === kind}
            title={KIND_HELP[kind]}
            className={`rounded-sm border px-1.5 py-0.5 text-left ${attrs.kind === kind ? 'border-petrol bg-petrol-wash' : 'border-hair hover:bg-wash'}`}
            onClick={() =>
              set({
                kind,
                ...(kind === 'choice' && !attrs.options ? { options: ['yes', 'no'], most: 1 } : {}),
              })
            }
          >
            {kind}
          </button>
        ))}
      </div>
      <p className="mt-1 text-xs text-soft">{KIND_HELP[attrs.kind]}</p>
    </>
  )
}

/** The options of a choice, and how many can be chosen. */
function OptionRules({ attrs, set }: PartProps) {
  return (
    <div className="mt-2">
      <TextArea
        aria-label="Options, one on each line"
        rows={3}
        value={(attrs.options ?? []).join('\n')}
        onChange={(event) =>
          set({
            options: event.target.value
              .split('\n')
              .filter((line, i, all2) => line.trim() !== '' || i === all2.length - 1),
          })
        }
      />
      <div className="mt-1 flex gap-3 text-xs text-soft">
        <label>
          at least{' '}
          <input
            type="number"
            min={0}
            max={40}
            className="w-12 border border-hair bg-sheet px-1"
            value={attrs.least ?? (attrs.required ? 1 : 0)}
            onChange={(event) => set({ least: Number(event.target.value) })}
          />
        </label>
        <label>
          at most{' '}
          <input
            type="number"
            min={1}
            max={40}
            className="w-12 border border-hair bg-sheet px-1"
            value={attrs.most ?? 1}
            onChange={(event) => set({ most: Number(event.target.value) })}
          />
        </label>
      </div>
    </div>
  )
}

/** The group that a tick is counted with. */
function TickRules({ attrs, set }: PartProps) {
  const { change } = useStudio()
  return (
    <TickGroupChoice
      value={attrs.group ?? null}
      onChange={(group) => set({ group })}
      onNew={(name) => {
        change((before) => ({
          ...before,
          tickGroups: [...(before.tickGroups ?? []), { name, least: 1, most: null }],
        }))
        set({ group: name })
      }}
    />
  )
}

/** Where a text comes from, and what is accepted. */
function TextRules({ attrs, set, fault }: PartProps & { readonly fault: string | null }) {
  const { all } = useStudio()
  return (
    <>
      <label className="mt-2 block text-xs text-soft">
        prefilled from
        <select
          className="ml-1 rounded-sm border border-hair bg-sheet px-1 py-0.5 text-sm text-ink"
          value={attrs.prefill ?? ''}
          onChange={(event) => set({ prefill: event.target.value || null })}
        >
          <option value="">nothing (the signer is asked)</option>
          {[...fieldsByName(all)].map(([name, { field }]) => (
            <option key={name} value={name}>
              {field.label}
            </option>
          ))}
        </select>
      </label>
      {attrs.prefill && (
        <label className="mt-1 flex items-center gap-2 text-xs">
          <input
            type="checkbox"
            checked={attrs.locked ?? false}
            onChange={(event) => set({ locked: event.target.checked })}
          />{' '}
          locked: the signer cannot change it
        </label>
      )}
      <p className="mt-2 text-xs text-soft">accepted only if (a condition over “value”)</p>
      <Input
        aria-label="Check of what is filled in"
        className="mt-0.5 font-mono"
        placeholder={attrs.kind === 'number' ? 'value >= 0' : 'string length(value) = 17'}
        value={attrs.check ?? ''}
        aria-invalid={fault !== null}
        onChange={(event) => set({ check: event.target.value || null })}
      />
      {fault && <p className="text-xs text-brick">{fault}</p>}
      {attrs.check && (
        <Input
          aria-label="Error message"
          className="mt-1"
          placeholder="Error message if it does not match"
          value={attrs.message ?? ''}
          onChange={(event) => set({ message: event.target.value || null })}
        />
      )}
    </>
  )
}

function TickGroupChoice({
  value,
  onChange,
  onNew,
}: {
  readonly value: string | null
  readonly onChange: (group: string | null) => void
  readonly onNew: (name: string) => void
}) {
  const { content } = useStudio()
  const [name, setName] = useState('')
  return (
    <div className="mt-2 flex items-center gap-2 text-xs text-soft">
      counted with
      <select
        aria-label="Group of ticks"
        className="rounded-sm border border-hair bg-sheet px-1 py-0.5 text-ink"
        value={value ?? ''}
        onChange={(event) => onChange(event.target.value || null)}
      >
        <option value="">none</option>
        {content.tickGroups?.map((group) => (
          <option key={group.name}>{group.name}</option>
        ))}
      </select>
      <input
        aria-label="New group"
        className="w-24 border border-hair bg-sheet px-1 py-0.5"
        placeholder="new group"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      {name.trim() && (
        <button type="button" className="text-petrol" onClick={() => (onNew(name.trim()), setName(''))}>
          add
        </button>
      )}
    </div>
  )
}
