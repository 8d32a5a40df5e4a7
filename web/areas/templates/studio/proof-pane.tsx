import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query'
import type { PDFDocumentProxy } from 'pdfjs-dist'
import { isText, textBlocks } from '#core/document/walk.ts'
import { ChevronLeft, ChevronRight, Download, Search } from 'lucide-react'
import { Popover } from 'radix-ui'
import { memo, useCallback, useEffect, useMemo, useState } from 'react'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Menu, MenuItem } from '#web/parts/menu.tsx'
import { fromBase64, originPlaces } from '#web/parts/pages/pdf.ts'
import { ProofViewer } from '#web/parts/pages/proof-viewer.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { askSource } from '#web/areas/templates/condition/use-survey.ts'
import { type Proof, useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { useSettled } from '#web/parts/use-settled.ts'

type Places = Awaited<ReturnType<typeof originPlaces>>

/** The draft itself follows the writing after a pause already. */
const PAUSE = 20

/** The finished pages for one row of real data, beside the text; follows every change. */
export const ProofPane = memo(function ProofPane({ onProof }: { readonly onProof: (proof: Proof) => void }) {
  const { templateId, content, sheetId, chooseSheet, row: chosenRow, chooseRow, goTo } = useStudio()
  const sheets = useAnswer('sheets', { query: { template: templateId } })
  const [chose, setChose] = useState(false)
  // What fed this template before; with no such source its examples speak, not guesses from a stranger's sheet.
  const first = sheets.data?.find(({ known }) => known)?.id ?? null
  useEffect(() => {
    if (!chose && sheetId === null && first !== null) chooseSheet(first)
  }, [chose, sheetId, first, chooseSheet])
  const rows = useAnswer(
    'sheetRows',
    { params: { id: sheetId ?? '' }, query: { limit: '1000' } },
    { enabled: sheetId !== null },
  )
  const at = rows.data?.rows.findIndex(({ row: number }) => number === chosenRow) ?? -1
  const index = Math.max(0, at)
  const row = chosenRow ?? rows.data?.rows[0]?.row ?? null
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
    enabled: sheets.isSuccess && (sheetId === null ? first === null || chose : row !== null),
    placeholderData: keepPreviousData,
  })
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
      if (following !== null) void queries.prefetchQuery(asked(following))
    },
    [queries, asked, following],
  )
  const total = rows.data?.rows.length ?? 0
  const step = useCallback(
    (by: number) => {
      const next = rows.data?.rows[Math.max(0, Math.min(total - 1, index + by))]
      if (next) chooseRow(next.row)
    },
    [rows.data, total, index, chooseRow],
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
          className="max-w-36 truncate border-none bg-transparent text-soft"
          value={sheetId ?? ''}
          onChange={(event) => {
            setChose(true)
            chooseSheet(event.target.value || null)
          }}
        >
          {sheets.data?.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
          <option value="">Examples of the data</option>
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
        {sheetId && <FindRow sheetId={sheetId} />}
        <PrintProof row={row} />
        <span className="text-xs text-soft tabular-nums">{data ? plural(data.pages, 'page') : ''}</span>
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
      {data && data.overflow.length > 0 && (
        <ul
          className="border-b border-hair bg-ochre-wash px-3 py-1.5 text-sm text-ochre"
          aria-label="Too wide"
        >
          {data.overflow.slice(0, 3).map((each, i) => (
            <li key={i}>
              “{each.text}” is wider than its space{each.where && `: ${each.where}`}.
            </li>
          ))}
        </ul>
      )}
      {data && data.alone.length > 0 && <SignaturesAlone passages={data.alone} />}
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
      <div
        className="h-19 shrink-0 overflow-hidden border-t border-hair px-3 py-1.5 text-sm"
        aria-live="polite"
      >
        {origin ? (
          <>
            <p className="truncate">
              <span className="font-semibold">{origin.label}</span>{' '}
              <span className="text-soft">
                {origin.field},{' '}
                {origin.format === 'as written' ? 'as it is written' : `shown as ${origin.format}`}
              </span>
            </p>
            <p className="line-clamp-2">
              {origin.formula ? (
                <>
                  {origin.formula} <span className="text-soft">= {origin.worked}</span>
                </>
              ) : origin.column ? (
                `${origin.column}: “${origin.cell ?? ''}”`
              ) : data?.row === null ? (
                'an example of the outline'
              ) : (
                'comes by itself'
              )}
              {origin.clause && (
                <span className="text-soft">
                  {` in “${origin.clause}”`}
                  {origin.condition && `, which stands because ${origin.because ?? origin.condition}`}
                </span>
              )}
            </p>
          </>
        ) : (
          <p className="text-soft">
            Point at a value to see where it came from; a click goes to its passage.
          </p>
        )}
      </div>
    </section>
  )
})

/** Signatures on a page without words, which nobody would know from another agreement's: their mend is one touch away. */
function SignaturesAlone({ passages }: { readonly passages: readonly string[] }) {
  const { content, change, editable, goTo } = useStudio()
  const blocks = textBlocks(content.document).filter(({ attrs }) => passages.includes(attrs.id))
  const [first] = passages
  return (
    <div
      className="flex items-center gap-2 border-b border-hair bg-ochre-wash px-3 py-1 text-sm text-ochre"
      role="status"
    >
      <button className="min-w-0 flex-1 text-left" onClick={() => first && goTo(first)}>
        The signatures stand on a page with no words above them.
      </button>
      {editable && blocks.some(({ attrs }) => !attrs.keep) && (
        <Button
          onClick={() =>
            change((now) => ({
              ...now,
              document: {
                type: 'doc',
                content: textBlocks(now.document).map((block) =>
                  passages.includes(block.attrs.id)
                    ? ({ ...block, attrs: { ...block.attrs, keep: true } } as typeof block)
                    : block,
                ),
              },
            }))
          }
        >
          Keep the last passage with them
        </Button>
      )}
    </div>
  )
}

/** Finds a row by what is in it, or by the longest value of a field: the one that strains its space the most. */
function FindRow({ sheetId }: { readonly sheetId: string }) {
  const { content, templateId, chooseRow, all } = useStudio()
  const say = useNotice()
  const [open, setOpen] = useState(false)
  const [text, setText] = useState('')
  const search = useSettled(text.trim(), 200)
  const found = useAnswer(
    'sheetRows',
    { params: { id: sheetId }, query: { limit: '30', search } },
    { enabled: open && search !== '', keep: true },
  )
  const go = (row: number) => {
    chooseRow(row)
    setOpen(false)
  }
  const fields = useMemo(
    () =>
      all.filter(({ type }) => ['text', 'long text', 'address', 'email', 'money', 'choice'].includes(type)),
    [all],
  )
  const longest = async (name: string) => {
    try {
      const answer = await askSource({ templateId, content, sheetId }, { conditions: [], longest: name })
      if (answer.longest) go(answer.longest.row)
      else say('No row has a value there.')
    } catch (error) {
      say(problemText(error), 'fault')
    }
  }
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button className="rounded-sm p-1 hover:bg-wash" aria-label="Find a row" title="Find a row">
          <Search size={15} />
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          className="z-40 w-80 border border-hair bg-paper p-3 text-sm"
        >
          <input
            autoFocus
            aria-label="Words in the row"
            placeholder="Words in the row"
            className="w-full rounded-sm border border-hair bg-sheet px-2 py-1"
            value={text}
            onChange={(event) => setText(event.target.value)}
            onKeyDown={(event) => {
              const [hit] = found.data?.rows ?? []
              if (event.key === 'Enter' && hit) go(hit.row)
            }}
          />
          <ul className="mt-1 max-h-48 overflow-auto">
            {search !== '' &&
              found.data?.rows.map(({ row, cells }) => (
                <li key={row}>
                  <button
                    className="flex w-full gap-2 px-1.5 py-1 text-left hover:bg-petrol-wash"
                    onClick={() => go(row)}
                  >
                    <span className="w-9 shrink-0 text-soft tabular-nums">{row}</span>
                    <span className="truncate">{cells.filter(Boolean).slice(0, 4).join(', ')}</span>
                  </button>
                </li>
              ))}
            {search !== '' && found.data?.rows.length === 0 && (
              <li className="px-1.5 py-1 text-soft">No row has these words.</li>
            )}
          </ul>
          <label className="mt-2 flex items-center gap-2 border-t border-hair pt-2 text-soft">
            Longest
            <select
              className="min-w-0 flex-1 rounded-sm border border-hair bg-sheet px-1 py-0.5 text-ink"
              value=""
              onChange={(event) => void longest(event.target.value)}
            >
              <option value="">choose a field</option>
              {fields.map(({ name, label }) => (
                <option key={name} value={name}>
                  {label}
                </option>
              ))}
            </select>
          </label>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

/** The proof as a file, on request by a PDF standard. */
function PrintProof({ row }: { readonly row: number | null }) {
  const { templateId, content, sheetId } = useStudio()
  const say = useNotice()
  const print = async (standard: 'ua-1' | 'a-2b' | null) => {
    try {
      const file = await call('printProof', { body: { templateId, content, sheetId, row, standard } })
      const link = document.createElement('a')
      link.href = URL.createObjectURL(file)
      link.download = `${content.title}, proof.pdf`
      link.click()
      setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
    } catch (error) {
      say(problemText(error), 'fault')
    }
  }
  return (
    <Menu
      trigger={
        <button className="rounded-sm p-1 hover:bg-wash" aria-label="Proof as a file" title="Proof as a file">
          <Download size={15} />
        </button>
      }
    >
      <MenuItem onSelect={() => void print(null)}>PDF</MenuItem>
      {/* Pages that were brought in stay as their file has them. */}
      {isText(content.document) && (
        <>
          <MenuItem onSelect={() => void print('ua-1')}>PDF/UA-1, for screen readers</MenuItem>
          <MenuItem onSelect={() => void print('a-2b')}>PDF/A-2b, to archive</MenuItem>
        </>
      )}
    </Menu>
  )
}
