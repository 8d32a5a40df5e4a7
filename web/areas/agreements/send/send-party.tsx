import { useSortable } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { GripVertical, X } from 'lucide-react'
import { type ReactNode, useState } from 'react'
import type { PartySetting } from '#contract/sending.ts'
import { CHECKS, describeCheck, WAYS } from '#core/ceremony/parties.ts'
import { isEmail } from '#core/outline/coerce.ts'
import { languageName, LANGUAGES } from '#core/languages/language.ts'
import { Input, Labelled, TextArea } from '#web/parts/input.tsx'
import { KnownAddress } from './known-address.tsx'

const SELECT = 'w-full rounded-sm border border-hair bg-sheet px-2 py-1 text-sm'

interface Props {
  readonly id: string
  readonly party: PartySetting
  readonly doubts: readonly string[]
  readonly shown: boolean
  /** Its place in the order; null: it has none. */
  readonly order: number | null
  /** Whether it acts at the same time as the one before; null: there is none. */
  readonly joined: boolean | null
  readonly onShow: () => void
  readonly onChange: (change: Partial<PartySetting>) => void
  readonly onJoin?: (on: boolean) => void
  readonly onMove?: (by: number) => void
  readonly onDrop?: (() => void) | undefined
}

/** One party: a line, and behind it what can be set about them. */
export function SendParty({
  id,
  party,
  doubts,
  shown,
  order,
  joined,
  onShow,
  onChange,
  onJoin,
  onMove,
  onDrop,
}: Props) {
  const sortable = useSortable({ id, disabled: order === null })
  const [open, setOpen] = useState(false)
  const { name, email, kind, check } = party
  return (
    <li
      ref={sortable.setNodeRef}
      style={{ transform: CSS.Translate.toString(sortable.transform), transition: sortable.transition }}
      className={`border-b border-hair/60 py-1.5 text-sm ${shown ? 'bg-petrol-wash/50' : ''} ${sortable.isDragging ? 'relative z-10 bg-sheet' : ''}`}
      onFocus={onShow}
      onClick={onShow}
    >
      <div className="flex items-center gap-2">
        {order === null ? (
          <span className="w-9" />
        ) : (
          <button
            ref={sortable.setActivatorNodeRef}
            {...sortable.attributes}
            {...sortable.listeners}
            className="flex w-9 cursor-grab items-center text-soft hover:text-ink"
            aria-label={`${name || 'This one'}, place ${order}: drag, or Space and arrows; or Alt and arrows`}
            onKeyDown={(event) => {
              const by = event.altKey ? { ArrowUp: -1, ArrowDown: 1 }[event.key] : undefined
              if (by === undefined) return sortable.listeners?.['onKeyDown']?.(event)
              event.preventDefault()
              onMove?.(by)
            }}
          >
            <GripVertical size={14} aria-hidden />
            <span className="tabular-nums">{joined ? '' : order}</span>
          </button>
        )}
        <button
          className="min-w-0 flex-1 truncate text-left"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        >
          <span className="font-semibold">{name}</span>{' '}
          <span className="text-soft">
            {email || 'no address'}
            {kind === 'assenter' && ', agrees'}
            {party.linkBy === 'text' && `, link by text to ${party.phone || 'no phone number yet'}`}
            {check !== 'link' && `, ${describeCheck(check)}`}
          </span>
        </button>
        {joined !== null && (
          <label className="flex items-center gap-1.5 whitespace-nowrap text-soft">
            <input type="checkbox" checked={joined} onChange={(event) => onJoin?.(event.target.checked)} />
            at the same time as the one above
          </label>
        )}
        {onDrop && (
          <button
            className="p-1 text-soft hover:text-brick"
            aria-label={`Take ${name} away`}
            onClick={onDrop}
          >
            <X size={14} aria-hidden />
          </button>
        )}
      </div>
      {doubts.map((doubt) => (
        <p key={doubt} className="ml-11 text-ochre">
          {doubt}
        </p>
      ))}
      {!isEmail(email) && <KnownAddress name={name} onTake={(known) => onChange({ email: known })} />}
      {open && <Settings party={party} onChange={onChange} />}
    </li>
  )
}

function Settings({
  party,
  onChange,
}: {
  readonly party: PartySetting
  readonly onChange: (change: Partial<PartySetting>) => void
}) {
  const { kind, check } = party
  const tick = (label: string, on: boolean, change: (on: boolean) => void): ReactNode => (
    <label className="flex items-center gap-2">
      <input type="checkbox" checked={on} onChange={(event) => change(event.target.checked)} />
      {label}
    </label>
  )
  return (
    <div className="mt-2 ml-11 grid grid-cols-2 gap-x-4 gap-y-2 pb-2">
      <Labelled label="Email address">
        <Input
          inputMode="email"
          value={party.email}
          onChange={(event) => onChange({ email: event.target.value })}
        />
      </Labelled>
      <Labelled
        label="Phone"
        hint={
          check === 'text code' || party.linkBy === 'text' ? 'With its country: +1 541 555 0100' : undefined
        }
      >
        <Input
          inputMode="tel"
          value={party.phone}
          onChange={(event) => onChange({ phone: event.target.value })}
        />
      </Labelled>
      <Labelled label="Language">
        <select
          className={SELECT}
          value={party.language ?? ''}
          onChange={(event) =>
            onChange({ language: LANGUAGES.find((each) => each === event.target.value) ?? null })
          }
        >
          <option value="">that of the organisation</option>
          {LANGUAGES.map((each) => (
            <option key={each} value={each}>
              {languageName(each)}
            </option>
          ))}
        </select>
      </Labelled>
      <Labelled label="The link goes">
        <select
          className={SELECT}
          value={party.linkBy}
          onChange={(event) => onChange({ linkBy: WAYS.find((each) => each === event.target.value)! })}
        >
          <option value="mail">by mail</option>
          <option value="text">by text message to their phone</option>
        </select>
      </Labelled>
      {kind === 'copy' ? (
        <div className="self-end pb-1">
          {tick('reads it while it is being signed', party.copyNow, (copyNow) => onChange({ copyNow }))}
        </div>
      ) : (
        <Labelled label="Identity check">
          <select
            className={SELECT}
            value={check}
            onChange={(event) => onChange({ check: CHECKS.find((each) => each === event.target.value)! })}
          >
            {CHECKS.map((each) => (
              <option key={each} value={each}>
                {describeCheck(each)}
              </option>
            ))}
          </select>
        </Labelled>
      )}
      {check === 'agreed code' && (
        <Labelled label="Agreed code" hint="Tell it them yourself, not by mail. It is not shown again.">
          <Input
            className="font-mono"
            autoComplete="off"
            placeholder="at least 6 characters"
            value={party.code ?? ''}
            onChange={(event) => onChange({ code: event.target.value || null })}
          />
        </Labelled>
      )}
      {kind !== 'copy' && (
        <>
          <div className="col-span-2">
            <Labelled label="Message only to them" hint="Only they read it, in the email and on the page.">
              <TextArea
                rows={2}
                maxLength={2000}
                value={party.message}
                onChange={(event) => onChange({ message: event.target.value })}
              />
            </Labelled>
          </div>
          <div className="col-span-2 flex gap-6">
            {tick('may decline', party.mayDecline, (mayDecline) => onChange({ mayDecline }))}
            {tick('may hand over signing', party.mayHandOver, (mayHandOver) => onChange({ mayHandOver }))}
          </div>
        </>
      )}
    </div>
  )
}
