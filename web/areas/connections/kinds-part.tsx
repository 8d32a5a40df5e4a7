import { useState } from 'react'
import { suggestedFor } from '#core/connection/found.ts'
import type { TheirKind } from '#core/connection/kinds.ts'
import type { Field } from '#core/outline/field.ts'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Input, Select } from '#web/parts/input.tsx'
import type { Connection } from './connection.ts'

const INTO = ['customer', 'contact', 'deal'] as const

/** A system’s object types, and what each is read as: type by type, field by field. */
export function KindsPart({
  connection,
  busy,
  onSave,
}: {
  readonly connection: Connection
  readonly busy: boolean
  readonly onSave: (kinds: readonly TheirKind[]) => void
}) {
  const say = useNotice()
  const [kinds, setKinds] = useState<readonly TheirKind[]>(connection.kinds)
  const [path, setPath] = useState('')
  const [finding, setFinding] = useState(false)
  const fields = {
    customer: useAnswer('recordFields', { params: { kind: 'customer' } }).data?.fields ?? [],
    contact: useAnswer('recordFields', { params: { kind: 'contact' } }).data?.fields ?? [],
    deal: useAnswer('recordFields', { params: { kind: 'deal' } }).data?.fields ?? [],
  }
  const find = async (of: string | null) => {
    setFinding(true)
    try {
      const found = (await call('findKinds', { params: { id: connection.id }, body: { path: of } })).kinds
      const names = new Set(found.map(({ name }) => name))
      setKinds([...kinds.filter(({ name }) => !names.has(name)), ...found])
    } catch (error) {
      say(problemText(error), 'fault')
    }
    setFinding(false)
  }
  const put = (name: string, change: Partial<TheirKind>) =>
    setKinds(kinds.map((kind) => (kind.name === name ? { ...kind, ...change } : kind)))
  const changed = JSON.stringify(kinds) !== JSON.stringify(connection.kinds)
  const nameless = kinds.some(({ into, mapping }) => into !== null && !mapping['name'])
  return (
    <section aria-label="Object types" className="mt-6">
      <div className="flex items-center gap-2 border-b border-hair pb-1">
        <h2 className="font-serif text-base font-semibold">Object types</h2>
        <span className="ml-auto flex items-center gap-2">
          {connection.description && (
            <Button busy={finding} onClick={() => void find(null)}>
              {kinds.length ? 'Find again' : 'Find object types'}
            </Button>
          )}
          <Input
            aria-label="Path of a list"
            className="max-w-40"
            placeholder="/path of a list"
            value={path}
            onChange={(event) => setPath(event.target.value)}
          />
          <Button busy={finding} disabled={!path.startsWith('/')} onClick={() => void find(path)}>
            Read list
          </Button>
          <Button kind="main" busy={busy} disabled={!changed || nameless} onClick={() => onSave(kinds)}>
            Save mapping
          </Button>
        </span>
      </div>
      {kinds.length === 0 && (
        <p className="mt-2 text-sm text-soft">
          No object types yet. Find them in its description, or read a list by its path.
        </p>
      )}
      {kinds.map((kind) => (
        <Kind
          key={kind.name}
          kind={kind}
          others={kinds.filter(({ name, into }) => name !== kind.name && into === 'customer')}
          fields={kind.into ? fields[kind.into] : []}
          onChange={(change) => put(kind.name, change)}
          onInto={(into) =>
            put(kind.name, {
              into,
              mapping: into ? suggestedFor(fields[into], kind) : {},
              owner: into === 'customer' ? null : kind.owner,
            })
          }
        />
      ))}
    </section>
  )
}

function Kind({
  kind,
  others,
  fields,
  onChange,
  onInto,
}: {
  readonly kind: TheirKind
  readonly others: readonly TheirKind[]
  readonly fields: readonly Field[]
  readonly onChange: (change: Partial<TheirKind>) => void
  readonly onInto: (into: TheirKind['into']) => void
}) {
  const theirs = kind.fields.filter(({ type }) => type !== 'list').map(({ name }) => name)
  const lines = kind.fields.flatMap(({ name, items }) =>
    (items ?? []).map((item) => `${name}[].${item.name}`),
  )
  const ours = fields
    .filter(({ computed }) => computed === undefined)
    .flatMap((field) =>
      field.type === 'list'
        ? (field.items ?? []).map((item) => ({
            name: `${field.name}.${item.name}`,
            label: `${field.label}, ${item.label.toLowerCase()}`,
            from: lines,
          }))
        : [{ name: field.name, label: field.label, from: theirs }],
    )
  const set = (name: string, value: string) => {
    const { [name]: _before, ...others } = kind.mapping
    onChange({ mapping: value ? { ...others, [name]: value } : others })
  }
  return (
    <section aria-label={kind.name} className="mt-4 text-sm">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <h3 className="text-base">{kind.name}</h3>
        <code className="text-xs text-soft">
          {kind.path}, known by {kind.id}
          {kind.since && `, changed since: ${kind.since}`}
          {kind.paging && `, pages: ${kind.paging.param}`}
        </code>
        <label className="ml-auto flex items-center gap-2 whitespace-nowrap">
          read as
          <Select
            aria-label={`${kind.name} are read as`}
            value={kind.into ?? ''}
            onChange={(event) => onInto(INTO.find((each) => each === event.target.value) ?? null)}
          >
            <option value="">not read</option>
            {INTO.map((each) => (
              <option key={each}>{each}</option>
            ))}
          </Select>
        </label>
      </div>
      {kind.into && !kind.mapping['name'] && (
        <p className="mt-1 border-l-2 border-ochre pl-3">
          Choose the field that holds the name. Without it no record can be read.
        </p>
      )}
      {kind.into && (
        <>
          <ul className="mt-1 grid grid-cols-2 gap-x-8" aria-label={`Fields of ${kind.name}`}>
            {ours.map(({ name, label, from }) => (
              <li key={name} className="flex items-center gap-2 border-b border-hair/60 py-0.5">
                <span className="w-36 shrink-0 truncate">{label}</span>
                <Choice
                  label={`${label} from`}
                  value={kind.mapping[name] ?? ''}
                  options={from}
                  onChange={(value) => set(name, value)}
                />
              </li>
            ))}
          </ul>
          <div className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1">
            {kind.into !== 'customer' && others.length > 0 && (
              <label className="flex items-center gap-2 whitespace-nowrap">
                customer from
                <Choice
                  label={`Customer of ${kind.name}`}
                  value={kind.owner?.field ?? ''}
                  options={theirs}
                  onChange={(field) => onChange({ owner: field ? { field, kind: others[0]!.name } : null })}
                />
              </label>
            )}
            <label className="flex items-center gap-2 whitespace-nowrap">
              write status to
              <Choice
                label={`Status of ${kind.name}`}
                value={kind.push.status ?? ''}
                options={theirs}
                onChange={(status) => onChange({ push: { ...kind.push, status: status || null } })}
              />
            </label>
            <label className="flex items-center gap-2 whitespace-nowrap">
              write link to
              <Choice
                label={`Link of ${kind.name}`}
                value={kind.push.link ?? ''}
                options={theirs}
                onChange={(link) => onChange({ push: { ...kind.push, link: link || null } })}
              />
            </label>
            <label className="flex items-center gap-2 whitespace-nowrap">
              send files to
              <Input
                aria-label={`Files of ${kind.name}`}
                className="max-w-28"
                placeholder="nowhere"
                value={kind.push.files ?? ''}
                onChange={(event) => onChange({ push: { ...kind.push, files: event.target.value || null } })}
              />
            </label>
          </div>
        </>
      )}
    </section>
  )
}

const Choice = ({
  label,
  value,
  options,
  onChange,
}: {
  readonly label: string
  readonly value: string
  readonly options: readonly string[]
  readonly onChange: (value: string) => void
}) => (
  <Select aria-label={label} value={value} onChange={(event) => onChange(event.target.value)}>
    <option value="">nothing</option>
    {options.map((each) => (
      <option key={each}>{each}</option>
    ))}
    {value && !options.includes(value) && <option value={value}>{value} (no longer there)</option>}
  </Select>
)
