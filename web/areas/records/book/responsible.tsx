import type { RecordKind } from '#core/records/kinds.ts'
import { useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'

/** Who of us is responsible for a record: a rule may ask the lead of their team. */
export function Responsible({
  kind,
  id,
  responsible,
  may,
}: {
  readonly kind: RecordKind
  readonly id: string
  readonly responsible: { readonly id: string; readonly name: string } | null
  readonly may: boolean
}) {
  const say = useNotice()
  const colleagues = useAnswer('absences', {}, { enabled: may })
  const set = useCall('setResponsible', () => say('Kept.'))
  if (!may) return responsible && <p className="text-sm text-soft">{responsible.name} is responsible.</p>
  return (
    <label className="mt-3 flex items-center gap-2 text-sm">
      <span className="text-soft">Responsible</span>
      <select
        className="rounded-sm border border-hair bg-sheet px-1.5 py-0.5"
        value={responsible?.id ?? ''}
        onChange={(event) =>
          set.mutate({ params: { kind, id }, body: { person: event.target.value || null } })
        }
      >
        <option value="">the person who makes its agreements</option>
        {colleagues.data?.colleagues
          .filter((each) => !each.left || each.id === responsible?.id)
          .map((each) => (
            <option key={each.id} value={each.id}>
              {each.name}
            </option>
          ))}
      </select>
    </label>
  )
}
