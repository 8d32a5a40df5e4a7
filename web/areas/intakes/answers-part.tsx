import { Link } from 'react-router'
import { useAnswer } from '#web/api/client.ts'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { When } from '#web/parts/signs/when.tsx'
import { AnswerDetail } from './answer-detail.tsx'
import { AnswerState } from './answer-state.tsx'

/** What was answered, the newest first; one of them beside the list. */
export function AnswersPart({ form, open }: { readonly form: string; readonly open: string | null }) {
  const answers = useAnswer('answers', { params: { id: form } }, { every: 5000 })
  if (answers.isPending) return <Loading />
  if (answers.isError) return <Failed error={answers.error} retry={() => void answers.refetch()} />
  if (answers.data.length === 0)
    return <Empty title="No responses yet">Create a public link or invite a person under “links”.</Empty>
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1.2fr)]">
      <ul className="min-h-0 overflow-auto" aria-label="Responses">
        {answers.data.map((each) => (
          <li key={each.id} className="border-b border-hair">
            <Link
              to={`/intakes/${form}/answers/${each.id}`}
              className={`grid grid-cols-[minmax(0,1fr)_11rem_6rem] items-baseline gap-3 px-4 py-1.5 text-sm ${each.id === open ? 'bg-petrol-wash' : 'hover:bg-wash'}`}
            >
              <span className="truncate font-semibold">{each.name || each.email || 'no name'}</span>
              <AnswerState answer={each} />
              <span className="text-right text-soft">
                <When at={each.handedInAt ?? each.createdAt} />
              </span>
            </Link>
          </li>
        ))}
      </ul>
      {open ? <AnswerDetail key={open} id={open} form={form} /> : <div className="border-l border-hair" />}
    </div>
  )
}
