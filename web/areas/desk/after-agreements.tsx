import { Link } from 'react-router'
import { Outcome } from '#web/areas/next-steps/steps-part.tsx'
import { useAnswer, useCall } from '#web/api/client.ts'
import { Block } from './block.tsx'

/** What follows agreements and could not be done, and what one has to do oneself after them. */
export function AfterAgreements() {
  const failed = useAnswer('failedSteps', {}, { every: 15_000 })
  const todo = useAnswer('followUps', {}, { every: 30_000 })
  const done = useCall('followUpDone')
  const today = new Date().toISOString().slice(0, 10)
  return (
    <>
      {failed.data && failed.data.length > 0 && (
        <Block title="Failed next steps" total={failed.data.length}>
          {failed.data.map((step) => (
            <li key={step.id} className="border-b border-hair/60 py-1 text-sm">
              <Link to={`/agreements/${step.agreement.id}`} className="hover:underline">
                <span className="tabular-nums">{step.agreement.number}</span>{' '}
                <span className="font-semibold">{step.agreement.name}</span>
              </Link>{' '}
              <span className="text-soft">{step.says}</span>
              <Outcome step={step} />
            </li>
          ))}
        </Block>
      )}
      {todo.data && todo.data.length > 0 && (
        <Block title="Tasks" total={todo.data.length}>
          {todo.data.map(({ id, text, dueOn, agreement }) => (
            <li key={id} className="flex items-baseline gap-3 border-b border-hair/60 py-1 text-sm">
              <input
                type="checkbox"
                aria-label={`Done: ${text}`}
                onChange={() => done.mutate({ params: { id } })}
              />
              <span className="min-w-0 flex-1">
                {text}{' '}
                <Link to={`/agreements/${agreement.id}`} className="text-soft hover:underline">
                  {agreement.number}
                </Link>
              </span>
              <span className={dueOn < today ? 'text-ochre' : 'text-soft'}>due {dueOn}</span>
            </li>
          ))}
        </Block>
      )}
    </>
  )
}
