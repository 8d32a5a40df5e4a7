import { X } from 'lucide-react'
import { useState } from 'react'
import type { CommonSending } from '#contract/sending.ts'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { CHECKS, describeCheck, MOST_PARTIES } from '#core/ceremony/parties.ts'
import { plural } from '#web/parts/signs/when.tsx'
import { Button } from '#web/parts/button.tsx'
import { InWhoseName } from './in-whose-name.tsx'
import { Person } from './person.tsx'
import { TimeLine } from './time-line.tsx'
import { Words } from './words.tsx'

type Sheets = Answer<Api['sendingOfMany']>
type RoleChange = NonNullable<CommonSending['roles']>[string]

/** Checks that can be set for many at once: an agreed code is agreed with one. */
const FOR_MANY = CHECKS.filter((check) => check !== 'agreed code')
const SELECT = 'w-full rounded-sm border border-hair bg-sheet px-1.5 py-0.5'

/** What is set for all of them at once; what is left alone stays as each of them has it. */
export function CommonForm({
  sheets,
  change,
  onChange,
}: {
  readonly sheets: Sheets
  readonly change: CommonSending
  readonly onChange: (change: CommonSending) => void
}) {
  const [adding, setAdding] = useState(false)
  const { notice, rows } = sheets
  const put = (more: CommonSending) => onChange({ ...change, ...more })
  const plan = change.plan ?? sheets.plan
  const copies = change.copies ?? []
  return (
    <section aria-label="For all of them" className="min-h-0 overflow-auto border-l border-hair px-4 py-3">
      <h2 className="font-serif text-base font-semibold">For all {rows.length}</h2>
      <p className="text-sm text-soft">
        What you change here is set in each of them. Open one in the list to set it by itself.
      </p>
      {notice === null && (
        <Roles roles={sheets.roles} change={change.roles ?? {}} onChange={(roles) => put({ roles })} />
      )}
      <InWhoseName
        teams={sheets.teams}
        team={change.team === undefined ? sheets.team : change.team}
        onChange={(team) => put({ team })}
      />
      {notice === null && (
        <>
          <h3 className="mt-5 mb-1 text-sm font-semibold">Sign-by date</h3>
          {plan && sheets.signDays !== null ? (
            <TimeLine
              sending={{
                plan,
                signByDay: change.signByDay === undefined ? sheets.signByDay : change.signByDay,
              }}
              signDays={sheets.signDays}
              today={sheets.today}
              onChange={put}
            />
          ) : (
            <p className="text-sm text-soft">
              They do not have the same dates and reminders.{' '}
              <button
                className="text-petrol underline"
                onClick={() => put({ plan: { after: [], unopened: [], before: [1] }, signByDay: null })}
              >
                Set the same for all
              </button>
            </p>
          )}
        </>
      )}
      <h3 className="mt-5 mb-1 text-sm font-semibold">
        {notice ? 'Who receives it besides' : 'Who gets a copy besides'}
      </h3>
      <ul className="text-sm">
        {copies.map(({ name, email }) => (
          <li key={email} className="flex items-center gap-2 py-0.5">
            {name} <span className="text-soft">{email}</span>
            <button
              className="p-1 text-soft hover:text-brick"
              aria-label={`Take ${name} away`}
              onClick={() => put({ copies: copies.filter((each) => each.email !== email) })}
            >
              <X size={14} aria-hidden />
            </button>
          </li>
        ))}
      </ul>
      {adding ? (
        <Person
          kind="copy"
          onCancel={() => setAdding(false)}
          onAdd={({ name = '', email = '' }) => {
            setAdding(false)
            put({
              copies: [...copies.filter((each) => each.email !== email), { name, email, copyNow: false }],
            })
          }}
        />
      ) : (
        <Button kind="quiet" onClick={() => setAdding(true)}>
          Add person
        </Button>
      )}
      <Words
        subject={change.subject ?? sheets.subject ?? ''}
        message={change.message ?? sheets.message ?? ''}
        hint={`Names in double braces are filled for each: ${sheets.fields
          .slice(0, 6)
          .map((name) => `{{${name}}}`)
          .join(', ')}${sheets.fields.length > 6 ? ', …' : ''}`}
        onChange={put}
        onTake={({ subject, message }) => put({ message, ...(subject.trim() ? { subject } : {}) })}
      />
    </section>
  )
}

function Roles({
  roles,
  change,
  onChange,
}: {
  readonly roles: Sheets['roles']
  readonly change: Readonly<Record<string, RoleChange>>
  readonly onChange: (roles: Record<string, RoleChange>) => void
}) {
  const set = (role: string, more: RoleChange) =>
    onChange({ ...change, [role]: { ...change[role], ...more } })
  return (
    <table className="mt-3 w-full text-sm">
      <thead className="text-left text-soft">
        <tr>
          <th className="font-normal">Role</th>
          <th className="font-normal">Signs</th>
          <th className="font-normal">Identity check</th>
          <th className="font-normal">May</th>
        </tr>
      </thead>
      <tbody>
        {roles.map(({ role, label, count, ...now }) => {
          const { order = now.order, check = now.check, mayDecline = now.mayDecline } = change[role] ?? {}
          const mayHandOver = change[role]?.mayHandOver ?? now.mayHandOver
          return (
            <tr key={role} className="border-t border-hair/60 align-top">
              <td className="py-1 pr-2">
                {label} <span className="text-soft">{plural(count, 'person', 'people')}</span>
              </td>
              <td className="py-1 pr-2">
                <select
                  aria-label={`${label} signs`}
                  className={SELECT}
                  value={order ?? ''}
                  onChange={(event) => set(role, { order: Number(event.target.value) })}
                >
                  {order === null && <option value="">differs</option>}
                  {Array.from({ length: Math.min(MOST_PARTIES, roles.length + 2) }, (_, i) => (
                    <option key={i} value={i + 1}>
                      {i + 1}.
                    </option>
                  ))}
                </select>
              </td>
              <td className="py-1 pr-2">
                <select
                  aria-label={`Identity check of ${label}`}
                  className={SELECT}
                  value={check ?? ''}
                  onChange={({ target }) =>
                    set(role, { check: FOR_MANY.find((each) => each === target.value) })
                  }
                >
                  {(check === null || check === 'agreed code') && (
                    <option value={check ?? ''}>{check ?? 'differs'}</option>
                  )}
                  {FOR_MANY.map((each) => (
                    <option key={each} value={each}>
                      {describeCheck(each)}
                    </option>
                  ))}
                </select>
              </td>
              <td className="py-1">
                <Tick label="decline" on={mayDecline} onChange={(on) => set(role, { mayDecline: on })} />
                <Tick label="hand over" on={mayHandOver} onChange={(on) => set(role, { mayHandOver: on })} />
              </td>
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}

/** A tick that stands between where not all are the same. */
function Tick({
  label,
  on,
  onChange,
}: {
  readonly label: string
  readonly on: boolean | null
  readonly onChange: (on: boolean) => void
}) {
  return (
    <label className="flex items-center gap-1.5 whitespace-nowrap">
      <input
        type="checkbox"
        ref={(box) => {
          if (box) box.indeterminate = on === null
        }}
        checked={on ?? false}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  )
}
