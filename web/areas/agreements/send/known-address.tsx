import { useAnswer } from '#web/api/client.ts'

const textOf = (value: unknown) => (typeof value === 'string' ? value : '')

/** Addresses that the record book has for somebody whose own is missing or wrong: one touch takes it. */
export function KnownAddress({
  name,
  onTake,
}: {
  readonly name: string
  readonly onTake: (email: string) => void
}) {
  const contacts = useAnswer(
    'records',
    { params: { kind: 'contact' }, query: { search: name, limit: '6' } },
    { enabled: name.trim().length > 1 },
  )
  const known = [
    ...new Set((contacts.data?.records ?? []).map(({ data }) => textOf(data['email'])).filter(Boolean)),
  ]
  if (known.length === 0) return null
  return (
    <p className="ml-11 text-sm">
      In Records:{' '}
      {known.map((email) => (
        <button key={email} className="mr-3 text-petrol underline" onClick={() => onTake(email)}>
          {email}
        </button>
      ))}
    </p>
  )
}
