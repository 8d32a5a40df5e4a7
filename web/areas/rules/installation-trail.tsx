import { useState } from 'react'
import { Link } from 'react-router'
import { useAnswer } from '#web/api/client.ts'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { Button } from '#web/parts/button.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { count, When } from '#web/parts/signs/when.tsx'

type Entry = Answer<Api['installationTrail']>['entries'][number]

const PAGE = 100

/** What was done to the installation, newest first: templates, rules, shelves, runs, sign-ins, nightly verification. */
export default function InstallationTrail() {
  const [offset, setOffset] = useState(0)
  const trail = useAnswer(
    'installationTrail',
    { query: { offset: String(offset), limit: String(PAGE) } },
    { keep: true },
  )
  if (trail.isPending) return <Loading />
  if (trail.isError) return <Failed error={trail.error} retry={() => void trail.refetch()} />
  const { entries, total, verified, problem } = trail.data
  return (
    <div className="flex h-full flex-col">
      <div className="shrink-0 px-4 pt-4 pb-2">
        <p className="text-sm">
          <Link to="/rules" className="text-petrol hover:underline">
            Rules
          </Link>
        </p>
        <h1 className="text-xl">Trail of the installation</h1>
        <p className={`mt-0.5 text-sm ${verified ? 'text-moss' : 'text-brick'}`} role="status">
          {verified ? `The chain of ${count(total)} entries holds.` : `The chain is broken. ${problem}`}
        </p>
      </div>
      {total === 0 ? (
        <Empty title="Nothing has been done yet" />
      ) : (
        <div
          className="min-h-0 flex-1 overflow-auto border-t border-hair"
          tabIndex={0}
          role="region"
          aria-label="Acts"
        >
          <table className="w-full text-sm">
            <thead className="sticky top-0 bg-paper text-left text-xs text-soft">
              <tr>
                <th className="w-14 px-4 py-1 text-right font-normal">No.</th>
                <th className="w-36 px-2 py-1 font-normal">When</th>
                <th className="w-44 px-2 py-1 font-normal">Who</th>
                <th className="px-2 py-1 font-normal">What</th>
                <th className="px-2 py-1 font-normal">With</th>
              </tr>
            </thead>
            <tbody>
              {entries.map((entry) => (
                <tr key={entry.seq} className="border-t border-hair/60 align-top">
                  <td className="px-4 py-1 text-right text-soft tabular-nums">{entry.seq}</td>
                  <td className="px-2 py-1">
                    <When at={entry.at} />
                  </td>
                  <td className="px-2 py-1">{entry.actor}</td>
                  <td className="px-2 py-1">{entry.act}</td>
                  <td className="max-w-80 truncate px-2 py-1 text-soft" title={inFull(entry)}>
                    {inFull(entry)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {total > PAGE && (
        <div className="flex shrink-0 items-center gap-3 border-t border-hair px-4 py-2 text-sm">
          <Button disabled={offset === 0} onClick={() => setOffset(Math.max(0, offset - PAGE))}>
            Newer
          </Button>
          <Button disabled={offset + PAGE >= total} onClick={() => setOffset(offset + PAGE)}>
            Older
          </Button>
          <span className="text-soft">
            {count(offset + 1)} to {count(Math.min(total, offset + PAGE))} of {count(total)}
          </span>
        </div>
      )}
    </div>
  )
}

const inFull = ({ detail }: Entry): string =>
  Object.entries(detail)
    .filter(([, value]) => value !== null && value !== '')
    .map(([name, value]) => `${name}: ${String(value)}`)
    .join(', ')
