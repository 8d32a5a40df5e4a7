import { useEffect, useState } from 'react'

/** A value that follows another after a pause of so many milliseconds. */
export function useSettled<T>(value: T, pause: number): T {
  const [settled, setSettled] = useState(value)
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), pause)
    return () => clearTimeout(timer)
  }, [value, pause])
  return settled
}
