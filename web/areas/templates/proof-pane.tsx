import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query'
import type { PDFDocumentProxy } from 'pdfjs-dist'
import { ChevronLeft, ChevronRight } from 'lucide-react'
import { useCallback, useEffect, useMemo, useState } from 'react'
import type * as v from 'valibot'
import type { proofSchema } from '#contract/template.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { call, problemText, useAnswer } from '#web/frame/client.ts'
import { originPlaces } from '#web/parts/pdf.ts'
import { ProofViewer } from '#web/parts/proof-viewer.tsx'

export type Proof = v.InferOutput<typeof proofSchema>
type Places = Awaited<ReturnType<typeof originPlaces>>

const PAUSE = 150

/** A value that follows another after a pause. */
function useSettled<T>(value: T, pause: number): T {
  const [settled, setSettled] = useState(value)
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), pause)
    return () => clearTimeout(timer)
  }, [value, pause])
  return settled
}

const decode = (base64: string) => Uint8Array.from(atob(base64), (character) => character.charCodeAt(0))

/** The finished pages for one row of real data, beside the text; follows every change. */
export function ProofPane({
  templateId,
  content,
  onProof,
}: {
  readonly templateId: string
  readonly content: TemplateContent
  readonly onProof: (proof: Proof) => void
}) {
  const sheets = useAnswer('sheets')
  const [chosen, setChosen] = useState<string | null>(null)
  const sheetId = chosen ?? sheets.data?.[0]?.id ?? null
  const rows = useAnswer(
    'sheetRows',
    { params: { id: sheetId ?? '' }, query: { limit: '1000' } },
    { enabled: sheetId !== null },
  )
  const [index, setIndex] = useState(0)
  const row = rows.data?.rows[index]?.row ?? null
  const following = rows.data?.rows[index + 1]?.row ?? null
  const queries = useQueryClient()
  const settled = useSettled(content, PAUSE)
  const asked = useCallback(
    (of: number | null) => ({
      queryKey: ['proof', templateId, sheetId, of, settled],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        call('proof', { body: { templateId, content: settled, sheetId, row: of }, signal }),
      gcTime: 10_000,
      staleTime: 60_000,
    }),
    [templateId, sheetId, settled],
  )
  const proof = useQuery({
    ...asked(row),
    enabled: sheets.isSuccess && (sheetId === null || row !== null),
    placeholderData: keepPreviousData,
  })
  const { data } = proof
  useEffect(() => {
    if (data) onProof(data)
  }, [data, onProof])
  const bytes = useMemo(() => (data?.pdf ? decode(data.pdf) : null), [data?.pdf])
  const [places, setPlaces] = useState<Places>([])
  const [pointed, setPointed] = useState<number | null>(null)
  const onDocument = useCallback(
    (document: PDFDocumentProxy) => {
      setPointed(null)
      void originPlaces(document).then(setPlaces, () => setPlaces([]))
      // The next row is fetched while this one is read.
      if (following !== null) void queries.prefetchQuery(asked(following))
    },
    [queries, asked, following],
  )
  const total = rows.data?.rows.length ?? 0
  const step = useCallback(
    (by: number) => setIndex((at) => Math.max(0, Math.min(total - 1, at + by))),
    [total],
  )
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!event.altKey || (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight')) return
      event.preventDefault()
      step(event.key === 'ArrowLeft' ? -1 : 1)
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [step])
  const origin = pointed === null ? null : data?.origins[pointed]
  return (
    <section aria-label="Proof" className="flex h-full min-h-0 flex-col border-l border-hair">
      <div className="flex h-9.5 shrink-0 items-center gap-2 border-b border-hair px-3 text-sm">
        <select
          aria-label="Source of the proof"
          className="max-w-44 truncate border-none bg-transparent text-soft"
          value={sheetId ?? ''}
          onChange={(event) => {
            setChosen(event.target.value)
            setIndex(0)
          }}
        >
          {sheets.data?.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
          {sheets.data?.length === 0 && <option value="">Examples of the outline</option>}
        </select>
        <button
          className="rounded-sm p-1 hover:bg-wash disabled:opacity-35"
          aria-label="Row before (Alt ←)"
          title="Row before (Alt ←)"
          disabled={index === 0}
          onClick={() => step(-1)}
        >
          <ChevronLeft size={15} />
        </button>
        <span className="min-w-0 flex-1 truncate text-center" aria-live="polite">
          {row !== null && <span className="text-soft tabular-nums">Row {row} </span>}
          <span className="font-semibold">{data?.rowLabel}</span>
        </span>
        <button
          className="rounded-sm p-1 hover:bg-wash disabled:opacity-35"
          aria-label="Row after (Alt →)"
          title="Row after (Alt →)"
          disabled={index >= total - 1}
          onClick={() => step(1)}
        >
          <ChevronRight size={15} />
        </button>
        <span className="text-xs text-soft tabular-nums">{data ? `${data.pages} pages` : ''}</span>
      </div>
      {proof.isError && (
        <p role="alert" className="border-b border-hair bg-brick-wash px-3 py-1.5 text-sm text-brick">
          {problemText(proof.error)}
        </p>
      )}
      {data && data.faults.length > 0 && (
        <ul className="border-b border-hair bg-brick-wash px-3 py-1.5 text-sm text-brick" role="alert">
          {data.faults.slice(0, 4).map((fault, i) => (
            <li key={i}>
              <span className="font-semibold">{fault.title}:</span> {fault.message}
            </li>
          ))}
          <li className="text-ink">The proof waits until this is mended.</li>
        </ul>
      )}
      {data && data.problems.length > 0 && (
        <ul className="border-b border-hair bg-ochre-wash px-3 py-1.5 text-sm text-ochre">
          {data.problems.slice(0, 3).map((problem, i) => (
            <li key={i}>{problem.message}</li>
          ))}
          {data.problems.length > 3 && <li>and {data.problems.length - 3} more</li>}
        </ul>
      )}
      <div className="min-h-0 flex-1">
        <ProofViewer
          bytes={bytes}
          label="Proof pages"
          onDocument={onDocument}
          overlay={(page, scale) =>
            places
              .filter((place) => place.page === page)
              .map((place, i) => (
                <button
                  key={i}
                  aria-label={`Trace of ${data?.origins[place.origin]?.label ?? 'a value'}`}
                  tabIndex={-1}
                  onMouseEnter={() => setPointed(place.origin)}
                  onFocus={() => setPointed(place.origin)}
                  className={`absolute ${pointed === place.origin ? 'bg-petrol/20' : 'hover:bg-petrol/10'}`}
                  style={{
                    left: place.x * scale,
                    top: place.y * scale,
                    width: place.width * scale,
                    height: place.height * scale,
                  }}
                />
              ))
          }
        />
      </div>
      <div
        className="h-16 shrink-0 overflow-hidden border-t border-hair px-3 py-1.5 text-sm"
        aria-live="polite"
      >
        {origin ? (
          <>
            <p className="truncate">
              <span className="font-semibold">{origin.label}</span>{' '}
              <span className="text-soft">
                {origin.field}, shown as {origin.format}
              </span>
            </p>
            <p className="truncate">
              {origin.formula
                ? `computed: ${origin.formula}`
                : origin.column
                  ? `${origin.column}: “${origin.cell ?? ''}”`
                  : 'an example of the outline'}
              {origin.clause && (
                <span className="text-soft">{` in “${origin.clause}”${origin.condition ? `, which stands because ${origin.condition}` : ''}`}</span>
              )}
            </p>
          </>
        ) : (
          <p className="text-soft">Point at a value to see where it came from.</p>
        )}
      </div>
    </section>
  )
}
