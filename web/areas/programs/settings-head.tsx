import { NavLink } from 'react-router'

const PLACES = [
  ['/settings', 'Organization'],
  ['/settings/programs', 'API keys and webhooks'],
  ['/settings/programs/calls', 'API reference'],
  ['/settings/programs/connections', 'Connections'],
] as const

/** Leads from one page of the settings to another. */
export function SettingsPlaces() {
  return (
    <nav aria-label="Settings" className="flex gap-4 text-sm">
      {PLACES.map(([to, said]) => (
        <NavLink
          key={to}
          to={to}
          end
          className={({ isActive }) =>
            isActive ? 'border-b-2 border-petrol font-semibold' : 'text-petrol hover:underline'
          }
        >
          {said}
        </NavLink>
      ))}
    </nav>
  )
}
