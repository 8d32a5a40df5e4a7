import type { Right } from '#contract/person.ts'

/** The demo's people; all made up. They share one password. */
export const demoPassword = 'larkmere'

const person = (name: string, post: string, ...rights: Right[]) => ({
  name,
  email: `${name.toLowerCase().replaceAll(' ', '.')}@larkmere.example`,
  post,
  rights,
})

export const people = [
  person(
    'Ines Hallow',
    'contract administrator',
    'templates',
    'runs',
    'send',
    'rules',
    'post room',
    'settings',
  ),
  person('Petra Vance', 'sales', 'runs', 'post room'),
  person('Jonah Teel', 'sales', 'runs', 'post room'),
  person('Ruth Ambler', 'sales lead', 'runs', 'approve', 'post room'),
  person('Gideon Farrow', 'finance', 'approve', 'post room'),
  person('Maren Oakes', 'legal', 'templates', 'approve', 'rules', 'post room'),
  person('Silas Brandt', 'operations director', 'approve', 'send', 'post room'),
] as const
