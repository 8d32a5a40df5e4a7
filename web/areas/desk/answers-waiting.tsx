import { Link } from 'react-router'
import { useAnswer } from '#web/api/client.ts'
import { When } from '#web/parts/signs/when.tsx'
import { Block } from './block.tsx'

/** Answers to intake forms that somebody has to say something to. */
export function AnswersWaiting() {
  const waiting = useAnswer('answersWaiting', {}, { every: 15_000 })
  if (!waiting.data?.length) return null
  return (
    <Block title="Intake responses that need a hand" total={waiting.data.length}>
      {waiting.data.map(({ id, form, name, email, state, problem, handedInAt }) => (
        <li key={id} className="border-b border-hair/60 py-1 text-sm">
          <Link to={`/intakes/${form.id}/answers/${id}`} className="flex gap-3 hover:underline">
            <span className="font-semibold">{name || email || 'without a name'}</span>
            <span className="text-soft">{form.title}</span>
            <span className="min-w-0 flex-1 truncate text-ochre">
              {state === 'needs a hand' ? problem : 'differs from the record'}
            </span>
            <span className="text-soft">{handedInAt && <When at={handedInAt} />}</span>
          </Link>
        </li>
      ))}
    </Block>
  )
}
