import { Link, useNavigate } from 'react-router'
import { useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Menu, MenuItem } from '#web/parts/menu.tsx'
import { SureButton } from '#web/parts/sure-button.tsx'
import { When } from '#web/parts/signs/when.tsx'

/** Agreements of files that somebody began: they are gone on with, or given up. */
export function BegunOneOffs({ record }: { readonly record: string }) {
  const begun = useAnswer('oneOffs', { query: { record } })
  const say = useNotice()
  const drop = useCall('dropOneOff', () => say('It is given up.'))
  if (!begun.data?.length) return null
  return (
    <ul className="text-sm" aria-label="Begun from files">
      {begun.data.map(({ id, name, changedAt, changedBy }) => (
        <li key={id} className="flex items-center gap-3 border-b border-hair/60 py-1.5">
          <Link to={`/one-offs/${id}`} className="min-w-0 flex-1 truncate text-petrol hover:underline">
            {name}
          </Link>
          <span className="text-xs text-soft">
            not made yet, {changedBy}, <When at={changedAt} />
          </span>
          <SureButton
            className="text-xs"
            label="Delete"
            sure="Delete for good"
            title={`Delete ${name}`}
            onSure={() => drop.mutate({ params: { id } })}
          />
        </li>
      ))}
    </ul>
  )
}

/** The same beside the register’s button, of all records and none. */
export function BegunMenu() {
  const begun = useAnswer('oneOffs', { query: {} })
  const navigate = useNavigate()
  if (!begun.data?.length) return null
  return (
    <Menu trigger={<Button>{begun.data.length} begun</Button>}>
      {begun.data.map(({ id, name, changedAt, record }) => (
        <MenuItem key={id} onSelect={() => void navigate(`/one-offs/${id}`)}>
          {name}
          <span className="ml-2 text-xs text-soft">
            {record && `${record}, `}
            <When at={changedAt} />
          </span>
        </MenuItem>
      ))}
    </Menu>
  )
}
