import { type RefObject, useEffect } from 'react'
import { useSearchParams } from 'react-router'
import { isTyping } from '#web/parts/keys.ts'

/** Filters as they stand in the address; what is set to nothing leaves it. */
export function useFilters() {
  const [search, setSearch] = useSearchParams()
  const to = (change: Readonly<Record<string, string>>) =>
    setSearch(
      Object.fromEntries(
        Object.entries({ ...Object.fromEntries(search), ...change }).filter(([, value]) => value !== ''),
      ),
      { replace: true },
    )
  return { search, to, clear: () => setSearch({}) }
}

/** `/` goes to the search box, wherever nothing is being typed. */
export function useSlash(box: RefObject<HTMLInputElement | null>): void {
  useEffect(() => {
    const focus = (event: KeyboardEvent) => {
      if (event.key !== '/' || isTyping(event.target)) return
      event.preventDefault()
      box.current?.focus()
    }
    window.addEventListener('keydown', focus)
    return () => window.removeEventListener('keydown', focus)
  }, [box])
}
