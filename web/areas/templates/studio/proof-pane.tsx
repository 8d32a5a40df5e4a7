import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query'
import { ChevronLeft, ChevronRight } from 'lucide-react'
import type { PDFDocumentProxy } from 'pdfjs-dist'
import { memo, useCallback, useEffect, useMemo, useState } from 'react'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { type Proof, useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { fromBase64, originPlaces } from '#web/parts/pages/pdf.ts'
import { ProofViewer } from '#web/parts/pages/proof-viewer.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { useSettled } from '#web/parts/use-settled.ts'
import { ProofNotes, Trace } from './proof-notes.tsx'
import { FindRow, PrintProof } from './proof-tools.tsx'

type Places = Awaited<ReturnType<typeof originPlaces>>

/** The draft itself follows the writing after a pause already. */
const PAUSE = 20

/** The rows that the proof can be of: where it is among them, and the ways to the next. */
function useProofRows() {
  const { sheetId, row: chosen, chooseRow } = useStudio()
  const found = useAnswer(
    'sheetRows',
    { params: { id: sheetId ?? '' }, query: { limit: '1000' } },
    { enabled: sheetId !== null },
  )
  const rows = found.data?.rows
  const index = Math.max(0, rows?.findIndex(({ row }) => row === chosen) ?? 0)
  const total = rows?.length ?? 0
  const step = useCallback(
    (by: number) => {
      const next = rows?.[Math.max(0, Math.min(total - 1, index + by))]
      if (next) chooseRow(next.row)
    },
    [rows, total, index, chooseRow],
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
  return {
    row: chosen ?? rows?.[0]?.row ?? null,
    following: rows?.[index + 1]?.row ?? null,
    isFirst: index === 0,
    isLast: index >= total - 1,
    step,
  }
}

/** The sheets that the proof can be of. What fed this template before comes by itself; with no such source its examples speak. */
function useProofSheets() {
  const { templateId, sheetId, chooseSheet } = useStudio()
  const sheets = useAnswer('sheets', { query: { template: templateId } })
  const [chose, setChose] = useState(false)
  const first = sheets.data?.find(({ known }) => known)?.id ?? null
  useEffect(() => {
    if (!chose && sheetId === null && first !== null) chooseSheet(first)
  }, [chose, sheetId, first, chooseSheet])
  return {
    sheets: sheets.data ?? [],
    /** Whether it is known what the proof is of. */
    settled: sheets.isSuccess && (sheetId !== null || first === null || chose),
    choose: (id: string | null) => {
      setChose(true)
      chooseSheet(id)
    },
  }
}

/** The proof of one row, and how that of another is asked for before it is shown. */
function useProof(row: number | null, enabled: boolean) {
  const { templateId, content, sheetId } = useStudio()
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
  const proof = useQuery({ ...asked(row), enabled, placeholderData: keepPreviousData })
  const prefetch = useCallback((of: number) => void queries.prefetchQuery(asked(of)), [queries, asked])
  return { proof, prefetch }
}

/** The finished pages for one row of real data, beside the text; follows every change. */
export const ProofPane = memo(function ProofPane({ onProof }: { readonly onProof: (proof: Proof) => void }) {
  const { sheetId, goTo } = useStudio()
  const sheets = useProofSheets()
  const rows = useProofRows()
  const { row, following } = rows
  const { proof, prefetch } = useProof(row, sheets.settled && (sheetId === null || row !== null))
  const { data } = proof
  useEffect(() => {
    if (data) onProof(data)
  }, [data, onProof])
  const bytes = useMemo(() => (data?.pdf ? fromBase64(data.pdf) : null), [data?.pdf])
  const [places, setPlaces] = useState<Places>([])
  const [pointed, setPointed] = useState<number | null>(null)
  const onDocument = useCallback(
    (document: PDFDocumentProxy) => {
      setPointed(null)
      void originPlaces(document).then(setPlaces, () => setPlaces([]))
      // The next row is fetched while this one is read.
      if (following !== null) prefetch(following)
    },
    [prefetch, following],
  )
  return (
    <section aria-label="Proof" className="flex h-full min-h-0 flex-col border-l border-hair">
      <div className="flex h-9.5 shrink-0 items-center gap-2 border-b border-hair px-3 text-sm">
        <Stepper sheets={sheets} rows={rows} label={data?.rowLabel ?? ''} />
        {sheetId && <FindRow sheetId={sheetId} />}
        <PrintProof row={row} />
        <span className="text-xs text-soft tabular-nums">{data ? plural(data.pages, 'page') : ''}</span>
      </div>
      {proof.isError && (
        <p role="alert" className="border-b border-hair bg-brick-wash px-3 py-1.5 text-sm text-brick">
          {problemText(proof.error)}
        </p>
      )}
      {data && <ProofNotes proof={data} />}
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
                  onClick={() => data && goTo(data.origins[place.origin]?.passage ?? '')}
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
      <Trace proof={data ?? null} pointed={pointed} />
    </section>
  )
})

/** What the proof is of: a sheet or the examples, and its row, with the ways to the next. */
function Stepper({
  sheets: { sheets, choose },
  rows: { row, isFirst, isLast, step },
  label,
}: {
  readonly sheets: ReturnType<typeof useProofSheets>
  readonly rows: ReturnType<typeof useProofRows>
  readonly label: string
}) {
  const { sheetId } = useStudio()
  return (
    <>
      <select
        aria-label="Source of the proof"
        className="max-w-36 truncate border-none bg-transparent text-soft"
        value={sheetId ?? ''}
        onChange={(event) => choose(event.target.value || null)}
      >
        {sheets.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
        <option value="">Example values</option>
      </select>
      <button
        className="rounded-sm p-1 hover:bg-wash disabled:opacity-35"
        aria-label="Previous row (Alt ←)"
        title="Previous row (Alt ←)"
        disabled={isFirst}
        onClick={() => step(-1)}
      >
        <ChevronLeft size={15} />
      </button>
      <span className="min-w-0 flex-1 truncate text-center" aria-live="polite">
        {row !== null && <span className="text-soft tabular-nums">Row {row} </span>}
        <span className="font-semibold">{label}</span>
      </span>
      <button
        className="rounded-sm p-1 hover:bg-wash disabled:opacity-35"
        aria-label="Next row (Alt →)"
        title="Next row (Alt →)"
        disabled={isLast}
        onClick={() => step(1)}
      >
        <ChevronRight size={15} />
      </button>
    </>
  )
}
