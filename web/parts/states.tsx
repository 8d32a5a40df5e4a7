import type { ReactNode } from 'react'
import { problemText } from '#web/api/problem.ts'
import { Button } from './button.tsx'

/** Keeps the place of what is being loaded. */
export function Loading({ label = 'Loading' }: { readonly label?: string }) {
  return (
    <div role="status" aria-label={label} className="flex flex-col gap-3 p-6">
      {[60, 85, 72, 78].map((width) => (
        <div key={width} className="h-3 animate-pulse bg-wash" style={{ width: `${width}%` }} />
      ))}
    </div>
  )
}

/** Says what went wrong and offers the way out. */
export function Failed({ error, retry }: { readonly error: unknown; readonly retry?: () => void }) {
  return (
    <div role="alert" className="m-6 max-w-lg border-l-2 border-brick pl-4">
      <p>{problemText(error)}</p>
      {retry && (
        <Button className="mt-3" onClick={retry}>
          Try again
        </Button>
      )}
    </div>
  )
}

/** Says what belongs here and offers to begin. */
export function Empty({ title, children }: { readonly title: string; readonly children?: ReactNode }) {
  return (
    <div className="m-6 max-w-lg border-l-2 border-hair pl-4">
      <p className="font-serif text-lg font-semibold">{title}</p>
      {children && <div className="mt-1 text-soft">{children}</div>}
    </div>
  )
}
