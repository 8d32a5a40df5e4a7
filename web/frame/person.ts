import { createContext, useContext } from 'react'
import type { Person, Right } from '#contract/person.ts'

export const PersonContext = createContext<Person | null>(null)

export function usePerson(): Person {
  const person = useContext(PersonContext)
  if (!person) throw new Error('Used outside the signed-in frame.')
  return person
}

/** What the interface offers; the server decides by itself. */
export const useMay = (right: Right): boolean => usePerson().rights.includes(right)
