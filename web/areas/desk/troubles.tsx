import { Link } from 'react-router'
import { useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { When } from '#web/parts/signs/when.tsx'
import { Block } from './block.tsx'

/** Programs that do not answer, and what they started that could not be made: each with its reason and a way on. */
export function Troubles() {
  const troubles = useAnswer('troubles', {}, { every: 15_000 })
  const say = useNotice()
  const now = useCall('tellNow', () => say('Delivery is being tried again.'))
  const pull = useCall('pullNow', () => say('The records are being read.'))
  const again = useCall('startAgain', () => say('The agreement is being made again.'))
  if (!troubles.data?.length) return null
  return (
    <Block title="Integrations that need a hand" total={troubles.data.length}>
      {troubles.data.map(({ kind, id, name, since, problem, again: possible }) => (
        <li key={id} className="flex items-baseline gap-3 border-b border-hair/60 py-1 text-sm">
          <Link
            to={kind === 'connection' ? '/settings/programs/connections' : '/settings/programs'}
            className="font-semibold hover:underline"
          >
            {name}
          </Link>
          <span className="min-w-0 flex-1 text-brick">
            {kind === 'start' && 'An agreement that this program started could not be made: '}
            {problem}
          </span>
          <span className="text-soft">
            <When at={since} />
          </span>
          {possible && (
            <button
              className="text-petrol underline"
              onClick={() =>
                (kind === 'webhook' ? now : kind === 'connection' ? pull : again).mutate({ params: { id } })
              }
            >
              Try again
            </button>
          )}
        </li>
      ))}
    </Block>
  )
}
