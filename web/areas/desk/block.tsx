import type { ReactNode } from 'react'
import { Link } from 'react-router'
import { count } from '#web/parts/signs/when.tsx'

/** Things of one kind that wait, with how many there are. */
export function Block({
  title,
  total,
  all,
  children,
}: {
  readonly title: string
  readonly total: number
  readonly all?: string
  readonly children: ReactNode
}) {
  return (
    <section className="mt-5 max-w-6xl" aria-label={title}>
      <div className="flex items-baseline gap-3 border-b border-hair pb-1">
        <h2 className="text-base">{title}</h2>
        <span className="text-sm text-soft tabular-nums">{count(total)}</span>
        {all && (
          <Link to={all} className="ml-auto text-sm text-petrol underline">
            Show all
          </Link>
        )}
      </div>
      <ul>{children}</ul>
    </section>
  )
}
