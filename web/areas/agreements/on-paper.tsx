import { useState } from 'react'
import type { Agreement } from '#contract/agreement.ts'
import { call, problemText, useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { When } from '#web/parts/signs/when.tsx'
import { UploadButton } from '#web/parts/upload-button.tsx'
import { printPages } from '#web/areas/signing/print.ts'

type Party = Agreement['parties'][number]

/** A signature on paper: printing it with a code on each page, and putting back what was scanned. */
export function OnPaper({ agreement, party }: { readonly agreement: Agreement; readonly party: Party }) {
  const may = useMay('send')
  const [open, setOpen] = useState(false)
  if (!may || agreement.state !== 'out' || party.kind !== 'signer' || party.signedAt) return null
  return (
    <>
      <button className="text-petrol underline" onClick={() => setOpen(true)}>
        On paper
      </button>
      {open && <Paper agreement={agreement} party={party} onClose={() => setOpen(false)} />}
    </>
  )
}

const pagesSaid = (pages: readonly number[]): string =>
  pages.length === 1 ? `page ${pages[0]}` : `pages ${pages.join(', ')}`

function Paper({
  agreement,
  party,
  onClose,
}: {
  readonly agreement: Agreement
  readonly party: Party
  readonly onClose: () => void
}) {
  const say = useNotice()
  const params = { id: agreement.id, party: party.id }
  const sheet = useAnswer('paperOf', { params })
  const [said, setSaid] = useState<readonly string[]>([])
  const [reading, setReading] = useState<{ readonly done: number; readonly of: number } | null>(null)
  const sign = useCall('signOnPaper', () => {
    say(`The signature of ${party.name} counts.`)
    onClose()
  })
  const take = async (files: readonly File[]) => {
    const told: string[] = []
    for (const [i, file] of files.entries()) {
      setReading({ done: i, of: files.length })
      try {
        const { taken, unsigned, others, unknown } = await call('takeScan', { params, body: file })
        const parts = [
          ...(taken.length ? [`${pagesSaid(taken)} put back`] : []),
          ...(unsigned.length
            ? [`nothing is signed on ${pagesSaid(unsigned)}: have it signed, then scan it again`]
            : []),
          ...(others ? [`${others} of another agreement or revision left out`] : []),
          ...(unknown
            ? [
                `${unknown} without a code that can be read: scan the whole page with 200 dots per inch, or photograph it from straight above`,
              ]
            : []),
        ]
        told.push(`${file.name}: ${parts.join('; ')}.`)
      } catch (error) {
        told.push(`${file.name}: ${problemText(error)}`)
      }
      setSaid([...told])
    }
    setReading(null)
    await sheet.refetch()
  }
  return (
    <Dialog title={`${party.name} signs on paper`} open onClose={onClose}>
      {sheet.isPending ? (
        <Loading />
      ) : sheet.isError ? (
        <Failed error={sheet.error} retry={() => void sheet.refetch()} />
      ) : (
        <div className="grid gap-3 text-sm">
          <p>
            Print it, have it signed, scan or photograph it, and put it back here. Each printed page has a
            code by which it is known again; the pages may come in any order, in one file or many.
          </p>
          <p className="flex flex-wrap gap-2">
            <Button
              onClick={() =>
                void printPages(() => call('printPaper', { params })).catch((error: unknown) =>
                  say(problemText(error), 'fault'),
                )
              }
            >
              Print {sheet.data.pages === 1 ? 'the page' : `the ${sheet.data.pages} pages`}
            </Button>
            <UploadButton
              label="Scanned pages"
              accept="application/pdf,image/png,image/jpeg"
              multiple
              busy={reading !== null}
              onFiles={(files) => void take(files)}
            >
              Put pages back
            </UploadButton>
          </p>
          {reading && (
            <p role="status" className="text-soft">
              Reading file {reading.done + 1} of {reading.of} …
            </p>
          )}
          {said.map((line) => (
            <p key={line} className="wrap-anywhere">
              {line}
            </p>
          ))}
          <table>
            <tbody>
              {Array.from({ length: sheet.data.pages }, (_, i) => i + 1).map((page) => {
                const here = sheet.data.have.find((each) => each.page === page)
                const missing = sheet.data.missing.includes(page)
                return (
                  <tr key={page} className="border-t border-hair/60">
                    <th scope="row" className="w-20 py-1 text-left font-normal">
                      Page {page}
                    </th>
                    <td className={here ? 'text-moss' : missing ? 'text-ochre' : 'text-soft'}>
                      {here ? (
                        <>
                          put back by {here.by} <When at={here.at} />
                        </>
                      ) : missing ? (
                        'to be signed on, not back yet'
                      ) : (
                        'need not come back'
                      )}
                    </td>
                  </tr>
                )
              })}
            </tbody>
          </table>
          {sheet.data.refusal && <p className="text-ochre">{sheet.data.refusal}</p>}
          <div className="flex justify-end gap-2">
            <Button onClick={onClose}>Close</Button>
            <Button
              kind="main"
              busy={sign.isPending}
              disabled={
                sheet.data.refusal !== null || sheet.data.missing.length > 0 || sheet.data.have.length === 0
              }
              onClick={() => sign.mutate({ params })}
            >
              It is signed
            </Button>
          </div>
        </div>
      )}
    </Dialog>
  )
}
