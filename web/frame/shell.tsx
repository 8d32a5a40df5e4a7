import { Suspense, useEffect, useState } from 'react'
import { NavLink, Outlet } from 'react-router'
import { Loading, Failed } from '#web/parts/states.tsx'
import { useAnswer } from '#web/api/client.ts'
import { CommandBar } from './command-bar.tsx'
import { KeyHelp } from './key-help.tsx'
import { belongsTo } from './kept-here.ts'
import { FirstRun } from './first-run.tsx'
import { OrganisationContext, PersonContext } from './person.ts'
import { PersonMenu } from './person-menu.tsx'
import { SignIn } from './sign-in.tsx'
import { AREAS } from './areas.ts'
import { Wordmark } from './wordmark.tsx'

export function Shell() {
  const session = useAnswer('session')
  const [commands, setCommands] = useState(false)
  useEffect(() => {
    const open = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() === 'k' && (event.ctrlKey || event.metaKey)) {
        event.preventDefault()
        setCommands(true)
      }
    }
    window.addEventListener('keydown', open)
    return () => window.removeEventListener('keydown', open)
  }, [])
  if (session.isPending) return <Loading />
  if (session.isError) return <Failed error={session.error} retry={() => void session.refetch()} />
  const { person, organisation, demo } = session.data
  if (!organisation) return <FirstRun />
  if (!person) return <SignIn demo={demo} organisation={organisation.name} />
  belongsTo(person.id)
  return (
    <PersonContext.Provider key={person.id} value={person}>
      <OrganisationContext.Provider value={organisation}>
        <div className="flex h-dvh flex-col">
          <header className="flex h-11 shrink-0 items-center gap-3 border-b border-hair px-4 max-md:h-auto max-md:flex-wrap max-md:gap-y-0 max-md:pt-1 lg:gap-6">
            <NavLink to="/desk" aria-label="Brevan, to the desk">
              <Wordmark />
            </NavLink>
            <nav
              className="flex h-full gap-1 max-md:order-last max-md:h-9 max-md:w-full max-md:justify-between max-md:gap-0 max-md:text-sm"
              aria-label="Areas"
            >
              {AREAS.map(({ path, label }) => (
                <NavLink
                  key={path}
                  to={path}
                  className={({ isActive }) =>
                    `flex items-center border-b-2 px-1.5 max-md:px-1 lg:px-2.5 ${isActive ? 'border-petrol font-semibold' : 'border-transparent text-soft hover:text-ink'}`
                  }
                >
                  {label}
                </NavLink>
              ))}
            </nav>
            <div className="ml-auto flex min-w-0 items-center gap-4 text-sm whitespace-nowrap">
              <button
                className="flex items-center justify-between gap-3 border border-hair bg-sheet px-2 py-1 text-soft hover:text-ink lg:w-44"
                onClick={() => setCommands(true)}
              >
                <span className="max-lg:sr-only">Find or do</span>{' '}
                <kbd className="font-sans text-xs">Ctrl K</kbd>
              </button>
              {person.rights.includes('post room') && (
                <NavLink
                  to="/post-room"
                  className={({ isActive }) => (isActive ? 'font-semibold' : 'text-soft hover:text-ink')}
                >
                  Test inbox
                </NavLink>
              )}
              <PersonMenu person={person} />
            </div>
          </header>
          <main className="min-h-0 flex-1 overflow-hidden">
            <Suspense fallback={<Loading />}>
              <Outlet />
            </Suspense>
          </main>
        </div>
        <CommandBar open={commands} onClose={() => setCommands(false)} />
        <KeyHelp />
      </OrganisationContext.Provider>
    </PersonContext.Provider>
  )
}
