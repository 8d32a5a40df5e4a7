import { createContext, useContext } from 'react'
import type { Api } from '#contract/api.ts'
import type { Person, Right } from '#contract/person.ts'
import type { Answer } from '#contract/route.ts'

export const PersonContext = createContext<Person | null>(null)

export function usePerson(): Person {
  const person = useContext(PersonContext)
  if (!person) throw new Error('Used outside the signed-in frame.')
  return person
}

export type OpenOrganisation = NonNullable<Answer<Api['session']>['organisation']>

export const OrganisationContext = createContext<OpenOrganisation>({ name: '', sender: '', synonyms: [] })

/** Whose installation this is. */
export const useOrganisation = (): OpenOrganisation => useContext(OrganisationContext)

/** What the interface offers; the server decides by itself. */
export const useMay = (right: Right): boolean => usePerson().rights.includes(right)
