import { keysOf } from '#core/keys-of.ts'
import { X } from 'lucide-react'
import { useState } from 'react'
import type { Sending } from '#contract/sending.ts'
import { Button } from '#web/parts/button.tsx'
import { Input } from '#web/parts/input.tsx'
import { plural } from '#web/parts/signs/when.tsx'

const DAY = 86_400_000
const dayText = (at: number) => new Date(at).toISOString().slice(0, 10)
const short = new Intl.DateTimeFormat(undefined, { month: 'short', day: 'numeric', timeZone: 'UTC' })

type Kind = keyof Sending['plan']
/** “1 day before the end”. */
const counted = (at: number, kind: Kind): string =>
  `${at} ${at === 1 ? KINDS[kind].replace('days', 'day') : KINDS[kind]}`

const KINDS: Readonly<Record<Kind, string>> = {
  after: 'days after sending',
  unopened: 'days after sending, if not opened',
  before: 'days before the end',
}

/** From sending to the last day, with the reminders between: on a line, and in words. */
export function TimeLine({
  sending,
  signDays,
  today,
  onChange,
}: {
  readonly sending: Pick<Sending, 'plan' | 'signByDay'>
  readonly signDays: number
  /** Today, where the organisation is. */
  readonly today: string
  readonly onChange: (changed: Partial<Pick<Sending, 'plan' | 'signByDay'>>) => void
}) {
  const { plan, signByDay } = sending
  const [kind, setKind] = useState<Kind>('after')
  const [days, setDays] = useState('3')
  const start = Date.parse(today)
  const end = signByDay ? Date.parse(signByDay) : start + signDays * DAY
  const whole = Math.max(1, Math.round((end - start) / DAY))
  const reminders = keysOf(KINDS)
    .flatMap((each) => plan[each].map((at) => ({ kind: each, at, day: each === 'before' ? whole - at : at })))
    .sort((a, b) => a.day - b.day)
  const add = () => {
    const at = Math.round(Number(days))
    if (!Number.isFinite(at) || at < 0 || at > 365 || plan[kind].includes(at)) return
    onChange({ plan: { ...plan, [kind]: [...plan[kind], at].sort((a, b) => a - b) } })
  }
  return (
    <div className="text-sm">
      <svg
        viewBox="0 0 600 44"
        className="w-full max-w-[40rem]"
        role="img"
        aria-label={`${plural(whole, 'day')} from sending to the last day`}
      >
        <line x1="8" y1="20" x2="592" y2="20" className="stroke-hair" strokeWidth="2" />
        <circle cx="8" cy="20" r="5" className="fill-petrol" />
        <circle cx="592" cy="20" r="5" className="fill-paper stroke-ink" strokeWidth="1.5" />
        {reminders.map(({ kind: of, at, day }) => (
          <path
            key={`${of} ${at}`}
            d={`M${8 + (584 * Math.max(0, Math.min(whole, day))) / whole} 13 v14`}
            className={of === 'unopened' ? 'stroke-soft' : 'stroke-ochre'}
            strokeWidth="2.5"
            strokeDasharray={of === 'unopened' ? '3 3' : undefined}
          />
        ))}
        <text x="2" y="41" className="fill-soft text-[12px]">
          sent
        </text>
        <text x="598" y="41" textAnchor="end" className="fill-soft text-[12px]">
          {`last day ${short.format(end)}`}
        </text>
      </svg>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-2 whitespace-nowrap">
          Sign-by date
          <Input
            type="date"
            className="max-w-40"
            min={dayText(start)}
            value={signByDay ?? ''}
            onChange={(event) => onChange({ signByDay: event.target.value || null })}
          />
        </label>
        <span className="text-soft">
          {signByDay ? (
            <button className="underline" onClick={() => onChange({ signByDay: null })}>
              {plural(signDays, 'day')} after sending instead
            </button>
          ) : (
            `${plural(signDays, 'day')} after sending, at the end of that day`
          )}
        </span>
      </div>
      <ul className="mt-2" aria-label="Reminders">
        {reminders.length === 0 && <li className="text-soft">No automatic reminders.</li>}
        {reminders.map(({ kind: of, at, day }) => (
          <li key={`${of} ${at}`} className="flex items-center gap-2 py-0.5">
            Reminder {counted(at, of)}
            <span className="text-soft">
              {day <= 0 || day >= whole ? 'falls outside' : short.format(start + day * DAY)}
            </span>
            <button
              className="p-1 text-soft hover:text-ink"
              aria-label={`Remove reminder ${counted(at, of)}`}
              onClick={() => onChange({ plan: { ...plan, [of]: plan[of].filter((each) => each !== at) } })}
            >
              <X size={14} aria-hidden />
            </button>
          </li>
        ))}
      </ul>
      <div className="mt-1 flex items-center gap-2">
        <Input
          aria-label="Days"
          inputMode="numeric"
          className="max-w-14"
          value={days}
          onChange={(event) => setDays(event.target.value)}
        />
        <select
          aria-label="Counted from"
          className="rounded-sm border border-hair bg-sheet px-2 py-1"
          value={kind}
          onChange={(event) => setKind(event.target.value as Kind)}
        >
          {keysOf(KINDS).map((each) => (
            <option key={each} value={each}>
              {KINDS[each]}
            </option>
          ))}
        </select>
        <Button onClick={add}>Add a reminder</Button>
      </div>
    </div>
  )
}
