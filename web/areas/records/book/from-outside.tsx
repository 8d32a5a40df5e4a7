import { Link } from 'react-router'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { RecordKind } from '#core/records/kinds.ts'
import { AnswerState } from '#web/areas/intakes/answer-state.tsx'
import { address, useAnswer } from '#web/api/client.ts'
import { When } from '#web/parts/signs/when.tsx'

/** What was answered in intake forms about a record, and who was asked. */
export function AnswersAbout({ kind, id }: { readonly kind: RecordKind; readonly id: string }) {
  const answers = useAnswer('recordAnswers', { params: { kind, id } })
  if (!answers.data?.length) return null
  return (
    <>
      <h3 className="mt-5 font-serif text-base font-semibold">Intakes</h3>
      <ul className="text-sm" aria-label="Intakes of this record">
        {answers.data.map((each) => (
          <li key={each.id} className="border-b border-hair/60">
            <Link
              to={`/intakes/${each.form.id}/answers/${each.id}`}
              className="grid grid-cols-[minmax(0,1fr)_auto_6rem] gap-3 py-1.5 hover:bg-wash"
            >
              <span className="truncate">{each.form.title}</span>
              <AnswerState answer={each} />
              <span className="text-right text-soft">
                <When at={each.handedInAt ?? each.createdAt} />
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </>
  )
}

/** Files that belong to a record. */
export function FilesOf({
  kind,
  record,
}: {
  readonly kind: RecordKind
  readonly record: Pick<Answer<Api['record']>, 'id' | 'files'>
}) {
  if (record.files.length === 0) return null
  return (
    <>
      <h3 className="mt-5 font-serif text-base font-semibold">Files</h3>
      <ul className="text-sm" aria-label="Files of this record">
        {record.files.map(({ sha256, name, source, at }) => (
          <li
            key={`${sha256} ${name}`}
            className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)_6rem] gap-3 border-b border-hair/60 py-1.5"
          >
            <a
              className="truncate text-petrol hover:underline"
              href={address('recordFile', { params: { kind, id: record.id, sha256 } })}
            >
              {name}
            </a>
            <span className="truncate text-soft">{source}</span>
            <span className="text-right text-soft">
              <When at={at} />
            </span>
          </li>
        ))}
      </ul>
    </>
  )
}
