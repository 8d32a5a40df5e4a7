import { type RefObject, useEffect, useState } from 'react'

/** CSS pixels outside of the view that a page is drawn within, and that it is kept within: a long file would fill the memory. */
const [DRAWN, KEPT] = [500, 4000]

/** Whether an element is in view, or nearly. */
export function useNear(
  element: RefObject<HTMLElement | null>,
  root: RefObject<HTMLElement | null>,
): boolean {
  const [near, setNear] = useState(false)
  useEffect(() => {
    if (!element.current) return
    const observer = new IntersectionObserver(([entry]) => setNear(entry!.isIntersecting), {
      root: root.current,
      rootMargin: `${near ? KEPT : DRAWN}px`,
    })
    observer.observe(element.current)
    return () => observer.disconnect()
  }, [near, element, root])
  return near
}
