import { FilePlus2 } from 'lucide-react'
import { Link } from 'react-router'
import { useMay } from '#web/frame/person.ts'

/** The door to a new agreement, with what is chosen already; nothing for those who may not make any. */
export function NewAgreementLink({
  query = '',
  main = false,
}: {
  /** Of the address: `of=` a template or packet, `for=` a record. */
  readonly query?: string
  /** It is what people come for here. */
  readonly main?: boolean
}) {
  const may = useMay('runs')
  if (!may) return null
  const look = main
    ? 'border-petrol bg-petrol text-on-petrol hover:opacity-90'
    : 'border-hair bg-sheet hover:border-soft'
  return (
    <Link
      to={`/agreements/new${query && `?${query}`}`}
      className={`inline-flex items-center gap-1.5 rounded-sm border px-3 py-1 text-sm font-semibold whitespace-nowrap ${look}`}
    >
      <FilePlus2 size={14} aria-hidden /> New agreement
    </Link>
  )
}
