import { Download } from 'lucide-react'
import { useState } from 'react'
import { OUTPUT_KINDS, type OutputKind } from '#contract/run.ts'
import { address, useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Menu, MenuItem } from '#web/parts/menu.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { count, fileSize, plural, When } from '#web/parts/signs/when.tsx'
import { type Output, useRun } from './open-run/use-run.ts'

const help: Readonly<Record<OutputKind, string>> = {
  'archive of PDFs': 'a ZIP with one PDF each, under the file names of the set-up',
  'archive of DOCX': 'a ZIP with one word processor’s document each',
  'archive of single documents':
    'a ZIP with a folder each: every document of the packet by itself, and the whole',
  'one PDF': 'all agreements one behind the other, with a bookmark each',
  trial: 'pages marked as a trial, a typical and the longest of each wording; they go to nobody',
  'result sheet': 'the source with what became of each row beside it, as XLSX',
  'result sheet as CSV': 'the same as CSV',
}

const SHARE_DAYS = [1, 7, 30, 90]

/** Files made of the whole run, in the background; each can be fetched, and shared by a link until a day. */
export function Outputs() {
  const { run, may, rows } = useRun()
  const outputs = useAnswer('outputs', { params: { id: run.id } }, { every: 1500 })
  const make = useCall('makeOutput')
  const made = rows.some(({ state }) => state === 'made')
  if (outputs.isPending) return <Loading />
  if (outputs.isError) return <Failed error={outputs.error} retry={() => void outputs.refetch()} />
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3 text-sm">
      {may && (
        <ul className="mb-4 grid gap-1">
          {OUTPUT_KINDS.filter((kind) => kind !== 'archive of single documents' || run.packet.length > 0).map(
            (kind) => (
              <li key={kind} className="grid grid-cols-[11.5rem_1fr] items-center gap-3">
                <Button
                  disabled={make.isPending || (!made && kind !== 'trial' && !kind.startsWith('result'))}
                  onClick={() => make.mutate({ params: { id: run.id }, body: { kind } })}
                >
                  <span className="first-letter:uppercase">{kind}</span>
                </Button>
                <span className="text-soft">{help[kind]}</span>
              </li>
            ),
          )}
        </ul>
      )}
      {outputs.data.length === 0 ? (
        <Empty title="Nothing has been made of this run yet" />
      ) : (
        <ul aria-label="Files of this run" className="border-t border-hair">
          {outputs.data.map((output) => (
            <OutputLine key={output.id} output={output} />
          ))}
        </ul>
      )}
    </div>
  )
}

function OutputLine({ output }: { readonly output: Output }) {
  const { run } = useRun()
  const maySend = useMay('send')
  const [link, setLink] = useState<string | null>(null)
  const share = useCall('shareOutput', ({ url }) => setLink(url))
  const end = useCall('endShare', () => setLink(null))
  const say = useNotice()
  const params = { id: run.id, output: output.id }
  return (
    <li className="border-b border-hair py-2">
      <div className="flex items-center gap-3">
        <span className="min-w-0 flex-1 truncate">
          {output.state === 'ready' ? (
            <a
              className="inline-flex items-center gap-1.5 text-petrol underline"
              href={address('output', { params })}
              download
            >
              <Download size={13} /> {output.name}
            </a>
          ) : (
            output.name
          )}
          <span className="ml-2 text-xs text-soft">
            {output.state === 'making'
              ? output.total
                ? `${count(output.done)} of ${count(output.total)}`
                : 'being made …'
              : output.state === 'failed'
                ? output.problem
                : fileSize(output.size ?? 0)}
          </span>
        </span>
        <span className="text-xs text-soft">
          {output.createdBy}, <When at={output.createdAt} />
        </span>
        {maySend &&
          output.state === 'ready' &&
          (output.sharedUntil ? (
            <Button kind="quiet" onClick={() => end.mutate({ params })}>
              End the link
            </Button>
          ) : (
            <Menu trigger={<Button busy={share.isPending}>Share</Button>}>
              {SHARE_DAYS.map((days) => (
                <MenuItem key={days} onSelect={() => share.mutate({ params, body: { days } })}>
                  A link for {plural(days, 'day')}
                </MenuItem>
              ))}
            </Menu>
          ))}
      </div>
      {output.sharedUntil && (
        <p className="mt-1 text-xs text-soft">
          Shared until <When at={output.sharedUntil} />.
          {link && (
            <>
              {' '}
              It is shown this once:{' '}
              <button
                className="text-petrol underline"
                onClick={() =>
                  void navigator.clipboard.writeText(link).then(() => say('The link is copied.'))
                }
              >
                copy it
              </button>
              <code className="block break-all text-ink select-all">{link}</code>
            </>
          )}
        </p>
      )}
    </li>
  )
}
