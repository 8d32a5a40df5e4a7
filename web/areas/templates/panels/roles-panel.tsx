import { Plus, Trash2 } from 'lucide-react'
import { useMemo } from 'react'
import { keysOf } from '#core/keys-of.ts'
import { placesByRole, type RolePlaces } from '#core/checks/checks.ts'
import { type FillRule, ROLE_SHAPES, type SignerRole } from '#core/document/template.ts'
import { expressionFaults } from '#core/merge/faults.ts'
import { Button } from '#web/parts/button.tsx'
import { Input, Labelled, Select } from '#web/parts/input.tsx'
import { RoleMark } from '#web/parts/signs/role-mark.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { ExpressionEditor } from '#web/parts/expressions/expression-editor.tsx'
import { hostOf } from '#core/organisation/organisation.ts'
import { useOrganisation } from '#web/frame/person.ts'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'

const RULES: Record<FillRule['rule'], string> = {
  record: 'from the record',
  'standing person': 'a fixed person',
  'whoever sends': 'the sender',
  ask: 'asked each time',
}

const NO_PLACES: RolePlaces = { signatures: 0, blanks: 0 }

const placesText = ({ signatures, blanks }: RolePlaces, notice: boolean): string =>
  notice
    ? 'receives it'
    : [
        signatures > 0 && (signatures === 1 ? 'signs at 1 place' : `signs at ${signatures} places`),
        blanks > 0 && `fills ${plural(blanks, 'blank')}`,
      ]
        .filter(Boolean)
        .join(', ') || 'signs and fills nothing yet'

/** Who signs: each role, how it finds its person or people, when it is there, and its place in the order. */
export function RolesPanel() {
  const { content, editable, change } = useStudio()
  const places = useMemo(() => placesByRole(content), [content])
  const set = (key: string, next: Partial<SignerRole>) =>
    change(
      (before) => ({
        ...before,
        roles: before.roles.map((role) => (role.key === key ? { ...role, ...next } : role)),
      }),
      `role ${key}`,
    )
  const add = () =>
    change((before) => {
      const taken = new Set(before.roles.map(({ key }) => key))
      const key = ['signer', ...Array.from({ length: 25 }, (_, i) => `signer_${i + 2}`)].find(
        (each) => !taken.has(each),
      )!
      const shape = ROLE_SHAPES.find((each) => !before.roles.some((role) => role.shape === each)) ?? 'circle'
      const order = Math.max(0, ...before.roles.map((role) => role.order)) + 1
      return {
        ...before,
        roles: [
          ...before.roles,
          {
            key,
            label: before.sending.notice ? 'Receiver' : 'Signer',
            shape,
            order: Math.min(order, 25),
            fill: { rule: 'ask' },
          },
        ],
      }
    })
  return (
    <fieldset disabled={!editable} className="min-h-0 overflow-auto p-5">
      {content.roles.length === 0 && (
        <p className="mb-3 max-w-md border-l-2 border-hair pl-4 text-sm text-soft">
          {content.sending.notice
            ? 'No recipients yet. A role says who receives it in the abstract; its person is found for each notice.'
            : 'No signers yet. A role says who signs in the abstract; its person is found for each agreement.'}
        </p>
      )}
      {[...content.roles]
        .sort((a, b) => a.order - b.order)
        .map((role) => (
          <RoleForm
            key={role.key}
            role={role}
            places={places.get(role.key) ?? NO_PLACES}
            set={(next) => set(role.key, next)}
          />
        ))}
      {editable && (
        <Button onClick={add}>
          <Plus size={14} /> Role
        </Button>
      )}
    </fieldset>
  )
}

function RoleForm({
  role,
  places,
  set,
}: {
  readonly role: SignerRole
  readonly places: RolePlaces
  readonly set: (next: Partial<SignerRole>) => void
}) {
  const { content, change, namesIn, proof } = useStudio()
  const names = namesIn(null)
  const fault = role.condition ? (expressionFaults(role.condition, names)[0] ?? null) : null
  const initials = content.initialsOnEveryPage.includes(role.key)
  const person = proof?.values[`signer.${role.key}.full_name`]
  const { sender } = useOrganisation()
  return (
    <section className="mb-5 border-b border-hair pb-5">
      <div className="flex items-end gap-3">
        <span className="pb-1.5">
          <RoleMark shape={role.shape} letter={role.label} />
        </span>
        <Labelled label="Role">
          <Input value={role.label} onChange={(event) => set({ label: event.target.value })} />
        </Labelled>
        <Labelled label="Shape">
          <Select
            value={role.shape}
            onChange={(event) => set({ shape: event.target.value as SignerRole['shape'] })}
          >
            {ROLE_SHAPES.map((shape) => (
              <option key={shape}>{shape}</option>
            ))}
          </Select>
        </Labelled>
        <Labelled label="Signs as">
          <Input
            type="number"
            min={1}
            max={25}
            className="max-w-16"
            value={role.order}
            onChange={(event) =>
              set({ order: Math.max(1, Math.min(25, Math.round(Number(event.target.value)) || 1)) })
            }
          />
        </Labelled>
        <Labelled label="Found">
          <Select
            value={role.fill.rule}
            onChange={(event) =>
              set({ fill: startFill(event.target.value as FillRule['rule'], role.fill, hostOf(sender)) })
            }
          >
            {keysOf(RULES).map((rule) => (
              <option key={rule} value={rule}>
                {RULES[rule]}
              </option>
            ))}
          </Select>
        </Labelled>
      </div>
      <FillForm fill={role.fill} onChange={(fill) => set({ fill })} />
      <div className="mt-3 flex flex-wrap gap-x-5 gap-y-1 text-sm">
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={initials}
            onChange={(event) =>
              change((before) => ({
                ...before,
                initialsOnEveryPage: event.target.checked
                  ? [...before.initialsOnEveryPage, role.key]
                  : before.initialsOnEveryPage.filter((key) => key !== role.key),
              }))
            }
          />
          initials on every page
        </label>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={role.optional ?? false}
            onChange={(event) => set({ optional: event.target.checked })}
          />
          is left out if no person is named
        </label>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={typeof role.condition === 'string'}
            onChange={(event) => set({ condition: event.target.checked ? '' : null })}
          />
          only on a condition
        </label>
      </div>
      {typeof role.condition === 'string' && (
        <div className="mt-2 max-w-xl">
          <ExpressionEditor
            value={role.condition}
            names={names}
            problem={fault}
            label={`Condition of the role ${role.label}`}
            placeholder="land.leased"
            onChange={(condition) => set({ condition })}
          />
        </div>
      )}
      <div className="mt-2 flex items-center gap-4 text-xs text-soft">
        <span>
          {placesText(places, Boolean(content.sending.notice))}, <code>{role.key}</code> in formulas
        </span>
        {person && (
          <span>
            {proof?.rowLabel}: {person}
          </span>
        )}
        <Button
          kind="quiet"
          className="ml-auto"
          onClick={() =>
            change((before) => ({
              ...before,
              roles: before.roles.filter(({ key }) => key !== role.key),
              initialsOnEveryPage: before.initialsOnEveryPage.filter((key) => key !== role.key),
            }))
          }
        >
          <Trash2 size={13} /> Leave out
        </Button>
      </div>
    </section>
  )
}

function startFill(rule: FillRule['rule'], before: FillRule, host: string): FillRule {
  if (rule === before.rule) return before
  if (rule === 'record') return { rule, name: '', email: '', title: null }
  if (rule === 'standing person')
    return { rule, name: 'Name', email: `name@${host || 'example.org'}`, title: '' }
  return { rule }
}

function FillForm({
  fill,
  onChange,
}: {
  readonly fill: FillRule
  readonly onChange: (fill: FillRule) => void
}) {
  const { content } = useStudio()
  if (fill.rule === 'whoever sends')
    return (
      <p className="mt-2 text-sm text-soft">
        {content.sending.notice
          ? 'The person who starts the run receives it, at their own email address.'
          : 'The person who starts the run signs, with their name, position and email address.'}
      </p>
    )
  if (fill.rule === 'ask')
    return (
      <p className="mt-2 text-sm text-soft">
        Name and email address are given with each run: a column of the sheet, or asked for.
      </p>
    )
  if (fill.rule === 'standing person')
    return (
      <div className="mt-2 grid max-w-2xl grid-cols-3 gap-3">
        {(
          [
            ['Name', 'name'],
            ['Title', 'title'],
            ['Email address', 'email'],
            ['Company', 'company'],
            ['Phone', 'phone'],
          ] as const
        ).map(([label, key]) => (
          <Labelled key={key} label={label}>
            <Input
              value={fill[key] ?? ''}
              onChange={(event) => onChange({ ...fill, [key]: event.target.value })}
            />
          </Labelled>
        ))}
      </div>
    )
  const lists = content.outline.filter(({ type }) => type === 'list')
  const fields = fill.list
    ? (lists.find(({ name }) => name === fill.list)?.items ?? [])
    : content.outline.filter(({ type }) => type !== 'list')
  const choice = (label: string, key: 'name' | 'email' | 'title' | 'company' | 'phone', needed: boolean) => (
    <Labelled label={label}>
      <Select
        value={fill[key] ?? ''}
        onChange={(event) => onChange({ ...fill, [key]: event.target.value || (needed ? '' : null) })}
      >
        <option value="">{needed ? 'choose a field' : 'none'}</option>
        {fields.map(({ name, label: text }) => (
          <option key={name} value={name}>
            {text}
          </option>
        ))}
      </Select>
    </Labelled>
  )
  return (
    <div className="mt-2 grid max-w-2xl grid-cols-3 gap-3">
      <Labelled label="People">
        <Select
          value={fill.list ?? ''}
          onChange={(event) =>
            onChange({ ...fill, list: event.target.value || null, name: '', email: '', title: null })
          }
        >
          <option value="">one person</option>
          {lists.map(({ name, label }) => (
            <option key={name} value={name}>
              each of {label}
            </option>
          ))}
        </Select>
      </Labelled>
      {choice('Name from', 'name', true)}
      {choice('Email address from', 'email', true)}
      {choice('Title from', 'title', false)}
      {choice('Company from', 'company', false)}
      {choice('Phone from', 'phone', false)}
    </div>
  )
}
