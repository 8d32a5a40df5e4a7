import { useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { PLURALS } from '#core/records/kinds.ts'
import { Button } from '#web/parts/button.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { count, When } from '#web/parts/signs/when.tsx'

/** What was taken into the record book, and the way back. */
export function Imports() {
  const say = useNotice()
  const may = useMay('runs')
  const imports = useAnswer('imports')
  const undo = useCall('undoImport', ({ undone, kept }) =>
    say(
      `${count(undone)} records are as before${kept ? `; ${count(kept)} were changed since and stay` : ''}.`,
    ),
  )
  if (imports.isPending) return <Loading />
  if (imports.isError) return <Failed error={imports.error} retry={() => void imports.refetch()} />
  if (imports.data.length === 0)
    return <Empty title="No imports yet">Open a sheet and import it to Records.</Empty>
  return (
    <ul aria-label="Imports" className="px-4 py-2 text-sm">
      {imports.data.map((each) => (
        <li key={each.id} className="flex items-center gap-4 border-b border-hair/60 py-1.5">
          <span className="w-28 text-soft">
            <When at={each.at} />
          </span>
          <span className="font-semibold">{each.sheet}</span>
          <span>
            {PLURALS[each.kind]}: {count(each.made)} new, {count(each.changed)} changed
          </span>
          <span className="text-soft">{each.by}</span>
          <span className="ml-auto">
            {each.undoneAt ? (
              <span className="text-soft">
                undone, <When at={each.undoneAt} />
              </span>
            ) : (
              may && (
                <Button busy={undo.isPending} onClick={() => undo.mutate({ params: { id: each.id } })}>
                  Undo
                </Button>
              )
            )}
          </span>
        </li>
      ))}
    </ul>
  )
}
