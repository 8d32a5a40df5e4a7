import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useState } from 'react'

interface Notice {
  readonly id: number
  readonly text: string
  readonly kind: 'done' | 'fault'
  readonly at: number
}

/** What was said so shortly before another page opened may be about that. */
const TOGETHER = 1000

const Notices = createContext<(text: string, kind?: Notice['kind']) => void>(() => undefined)

/** Says that something was done or went wrong; a fault stays until it is put away, or another page opens. */
export const useNotice = () => useContext(Notices)

let counted = 0

/** Shows what `useNotice` is told, at the lower edge, until it is read or pushed away. */
export function NoticeProvider({
  place = '',
  children,
}: {
  /** Where in the application somebody is: faults are about it. */
  readonly place?: string
  readonly children: ReactNode
}) {
  const [notices, setNotices] = useState<readonly Notice[]>([])
  const drop = useCallback((id: number) => setNotices((all) => all.filter((notice) => notice.id !== id)), [])
  const say = useCallback(
    (text: string, kind: Notice['kind'] = 'done') => {
      const id = ++counted
      setNotices((all) => [...all.slice(-2), { id, text, kind, at: Date.now() }])
      if (kind === 'done') setTimeout(() => drop(id), 5000)
    },
    [drop],
  )
  useEffect(() => {
    const earlier = Date.now() - TOGETHER
    setNotices((all) => all.filter(({ kind, at }) => kind === 'done' || at > earlier))
  }, [place])
  const list = useMemo(
    () =>
      notices.map(({ id, text, kind }) => (
        <div
          key={id}
          role={kind === 'fault' ? 'alert' : 'status'}
          className={`flex items-start gap-3 border bg-sheet px-4 py-2.5 text-sm ${kind === 'fault' ? 'border-brick text-brick' : 'border-hair'}`}
        >
          <span className="max-w-md">{text}</span>
          <button className="text-soft hover:text-ink" onClick={() => drop(id)} aria-label="Dismiss">
            ×
          </button>
        </div>
      )),
    [notices, drop],
  )
  return (
    <Notices.Provider value={say}>
      {children}
      <div className="fixed right-4 bottom-16 z-50 flex flex-col gap-2">{list}</div>
    </Notices.Provider>
  )
}
