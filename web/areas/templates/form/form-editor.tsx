import { Popover } from 'radix-ui'
import { type KeyboardEvent, type RefObject, useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { useStore } from 'zustand'
import type { FormPage, Placement, TextCue } from '#core/document/tree.ts'
import { wordsBeside } from '#core/form/replace.ts'
import { fieldsByName } from '#core/outline/field.ts'
import { call, problemText } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import type { TemplateDraft } from '#web/areas/templates/draft/template-draft.ts'
import { useZoom } from '#web/parts/pages/zoom.tsx'
import { ChosenStrip } from './chosen-strip.tsx'
import { type Find, FindsBar, useFinds } from './finds.tsx'
import { keyAct } from './form-keys.ts'
import { FormTools } from './form-tools.tsx'
import { usePageRead } from './page-files.ts'
import { PageStrip } from './page-strip.tsx'
import { PlaceMenu } from './place-menu.tsx'
import { Placing, type PlacingState } from './placing.ts'
import { pagesOf } from './form-pages.ts'
import { Sheet } from './sheet.tsx'

const NOTHING: readonly string[] = []

/** The part of the window that shows the pages: its room, the page in view, and the way to a page or a placement. */
function usePagesInView() {
  const scroller = useRef<HTMLDivElement>(null)
  const [room, setRoom] = useState({ width: 0, height: 0 })
  const [inView, setInView] = useState(0)
  useEffect(() => {
    if (!scroller.current) return
    const observer = new ResizeObserver(([entry]) => {
      if (entry)
        setRoom({ width: Math.floor(entry.contentRect.width), height: Math.floor(entry.contentRect.height) })
    })
    observer.observe(scroller.current)
    return () => observer.disconnect()
  }, [])
  const focus = useCallback(() => scroller.current?.focus({ preventScroll: true }), [])
  const show = useCallback((id: string) => {
    const element = scroller.current?.querySelector(`[data-placement="${id}"], [data-sheet="${id}"]`)
    element?.scrollIntoView({ block: 'center' })
  }, [])
  const report = () => {
    const box = scroller.current
    if (!box) return
    const middle = box.getBoundingClientRect().top + box.clientHeight / 2
    const found = [...box.querySelectorAll('[data-sheet]')].findLastIndex(
      (element) => element.getBoundingClientRect().top < middle,
    )
    setInView(Math.max(0, found))
  }
  return { scroller, room, inView, focus, show, report }
}

/** Goes to a placement or a page that something elsewhere names. */
function useGoTo(
  goTo: string | null,
  draft: TemplateDraft,
  placing: Placing,
  show: (id: string) => void,
): void {
  useEffect(() => {
    if (!goTo) return
    const page = pagesOf(draft.content).content.find((each) =>
      each.content.some(({ attrs }) => attrs.id === goTo),
    )
    if (page) {
      placing.choose([goTo])
      show(page.attrs.id)
      requestAnimationFrame(() => show(goTo))
    } else show(goTo)
  }, [goTo, draft, placing, show])
}

/** What is looked for on the pages: likely blanks, or fields of the file, each to be taken or not. */
function useLooking(pages: readonly FormPage[], file: string | null) {
  const [looking, setLooking] = useState<'likely' | 'fields' | null>(null)
  const [atFind, setAtFind] = useState<string | null>(null)
  const { finds, pending } = useFinds(pages, looking ?? 'likely', looking ? file : null)
  const look = (what: 'likely' | 'fields') => {
    setLooking((now) => (now === what ? null : what))
    setAtFind(null)
  }
  return { looking, finds, pending, atFind, setAtFind, look, stop: () => setLooking(null) }
}

/** The phrase beside the one placement that is chosen: what it could keep its distance to. */
function useProposedCue(pages: readonly FormPage[], chosen: readonly Placement[]): string {
  const one = chosen.length === 1 ? chosen[0] : undefined
  const page = pages.find(({ content }) => content.some(({ attrs }) => attrs.id === one?.attrs.id))
  const read = usePageRead(page?.attrs.file ?? '', page?.attrs.page ?? 1, page !== undefined)
  return one && read ? (wordsBeside(one, read)?.phrase ?? '') : ''
}

/** The pages of a form with everything placed on them. */
export function FormEditor({ draft, goTo }: { readonly draft: TemplateDraft; readonly goTo: string | null }) {
  const { content, editable } = useStudio()
  const [placing] = useState(() => new Placing(() => draft.content, draft.change))
  const state = useStore(placing.shown)
  const pages = pagesOf(content).content
  const { scroller, room, inView, focus, show, report } = usePagesInView()
  const [strip, setStrip] = useState(false)
  const [snap, setSnap] = useState(true)
  const noted = pages.some(
    (page) => page.content.some(({ attrs }) => attrs.condition) || page.attrs.condition,
  )
  const zoom = useZoom(pages[0]?.attrs, { ...room, width: room.width - (noted ? 128 : 24) })
  const { scale } = zoom
  useGoTo(goTo, draft, placing, show)
  const file = pages[inView]?.attrs.file ?? pages[0]?.attrs.file ?? null
  const finding = useLooking(pages, file)
  const { looking, finds } = finding
  const follow = useCues(placing, draft)
  const proposed = useProposedCue(pages, placing.chosen)
  const onKey = (event: KeyboardEvent) => {
    if (event.target instanceof HTMLInputElement || event.target instanceof HTMLSelectElement) return
    const done = editable && keyAct(event, placing, pages, pages[inView]?.attrs.id ?? null, show)
    if (done) event.preventDefault()
    else if (event.target === scroller.current) zoom.onKey(event)
  }
  return (
    <div className="flex h-full flex-col">
      <FormTools
        draft={draft}
        placing={placing}
        pages={pages}
        file={file}
        inView={inView}
        shown={{ strip, snap, looking }}
        onStrip={() => setStrip((now) => !now)}
        onSnap={() => setSnap((now) => !now)}
        onLook={finding.look}
      />
      {looking && editable && (
        <FindsBar
          key={looking}
          finds={finds}
          pending={finding.pending}
          what={looking}
          placing={placing}
          at={finding.atFind}
          onAt={(key) => {
            finding.setAtFind(key)
            const find = finds.find((each) => each.key === key)
            if (find) scrollToFind(scroller.current, find, scale)
          }}
          onClose={finding.stop}
        />
      )}
      <div className="flex min-h-0 flex-1">
        {strip && <PageStrip pages={pages} placing={placing} editable={editable} onShow={show} />}
        <div className="relative min-w-0 flex-1">
          <div
            ref={scroller}
            role="application"
            aria-label="Pages of the form"
            aria-roledescription="pages with places on them"
            tabIndex={0}
            onKeyDown={onKey}
            onScroll={report}
            className="h-full overflow-auto bg-wash outline-none focus-visible:ring-1 focus-visible:ring-petrol"
          >
            {scale > 0 && (
              <Sheets {...{ pages, scale, scroller, placing, state, snap, noted, finding }} onFocus={focus} />
            )}
          </div>
          {state.spot && (
            <MenuAt
              placing={placing}
              scroller={scroller.current}
              scale={scale}
              onDone={() => {
                placing.open(null)
                focus()
              }}
            />
          )}
          {scale > 0 && zoom.bar}
        </div>
      </div>
      {editable && (
        <ChosenStrip
          chosen={placing.chosen}
          placing={placing}
          proposedCue={proposed}
          onCue={(id, cue) => follow(id, cue)}
        />
      )}
    </div>
  )
}

function Sheets({
  pages,
  scale,
  scroller,
  placing,
  state,
  snap,
  noted,
  finding: { looking, finds, atFind },
  onFocus,
}: {
  readonly pages: readonly FormPage[]
  readonly scale: number
  readonly scroller: RefObject<HTMLDivElement | null>
  readonly placing: Placing
  readonly state: PlacingState
  readonly snap: boolean
  /** Conditions stand in the margin and need their room. */
  readonly noted: boolean
  readonly finding: ReturnType<typeof useLooking>
  readonly onFocus: () => void
}) {
  const { content, editable, all } = useStudio()
  const fields = useMemo(() => fieldsByName(all), [all])
  const labelOf = useCallback((field: string) => fields.get(field)?.field.label ?? field, [fields])
  return (
    <div
      className="mx-auto flex w-fit flex-col gap-4 py-4"
      style={{ paddingRight: noted ? 128 : 24, paddingLeft: noted ? 8 : 16 }}
    >
      {pages.map((page, i) => (
        <Sheet
          key={page.attrs.id}
          page={page}
          index={i}
          scale={scale}
          root={scroller}
          placing={placing}
          chosen={chosenOn(page, state.chosen)}
          chosenInAll={state.chosen.length}
          spot={state.spot?.page === page.attrs.id ? state.spot : null}
          roles={content.roles}
          labelOf={labelOf}
          editable={editable}
          snap={snap}
          finds={
            looking ? <FoundOn page={page} finds={finds} scale={scale} at={atFind} placing={placing} /> : null
          }
          onFocus={onFocus}
        />
      ))}
    </div>
  )
}

/** The same list while nothing of it changes, so that only pages whose choice changes are drawn anew. */
const chosenOn = (page: FormPage, chosen: readonly string[]): readonly string[] => {
  const own = chosen.filter((id) => page.content.some(({ attrs }) => attrs.id === id))
  return own.length ? own : NOTHING
}

/** Gives a placement its cue; beside every occurrence the server finds them. */
function useCues(placing: Placing, draft: TemplateDraft) {
  const say = useNotice()
  return (id: string, cue: TextCue | null) => {
    placing.setCue(id, cue)
    if (cue?.nth !== 'every') return
    void call('followCues', { body: { content: draft.content } })
      .then(({ document, faults }) => {
        placing.setPages(document)
        if (faults[0]) say(faults[0].message, 'fault')
      })
      .catch((error: unknown) => say(problemText(error), 'fault'))
  }
}

function scrollToFind(scroller: HTMLElement | null, { page, box }: Find, scale: number): void {
  const element = scroller?.querySelector<HTMLElement>(`[data-sheet="${page.attrs.id}"]`)
  if (!scroller || !element) return
  const top = element.getBoundingClientRect().top - scroller.getBoundingClientRect().top + scroller.scrollTop
  scroller.scrollTo({ top: top + box.y * scale - scroller.clientHeight / 2 })
}

/** What was found on one page, to be taken by a click. */
function FoundOn({
  page,
  finds,
  scale,
  at,
  placing,
}: {
  readonly page: FormPage
  readonly finds: readonly Find[]
  readonly scale: number
  readonly at: string | null
  readonly placing: Placing
}) {
  return finds
    .filter((find) => find.page.attrs.id === page.attrs.id)
    .map((find) => (
      <button
        key={find.key}
        data-find
        title={`${find.label}: take as ${find.kind}`}
        aria-label={`Take ${find.label} as ${find.kind}`}
        className={`absolute z-10 border border-dashed ${find.key === at ? 'border-2 border-ochre bg-ochre/20' : 'border-ochre/80 bg-ochre/5 hover:bg-ochre/15'}`}
        style={{
          left: find.box.x * scale,
          top: find.box.y * scale,
          width: find.box.width * scale,
          height: find.box.height * scale,
        }}
        onClick={() => {
          const role = placing.role
          if (role) placing.take([{ page: page.attrs.id, placement: find.make(role) }])
        }}
      />
    ))
}

/** The menu, where the place is. */
function MenuAt({
  placing,
  scroller,
  scale,
  onDone,
}: {
  readonly placing: Placing
  readonly scroller: HTMLElement | null
  readonly scale: number
  readonly onDone: () => void
}) {
  const { spot } = placing.state()
  const sheet = spot && scroller?.querySelector<HTMLElement>(`[data-sheet="${spot.page}"]`)
  if (!spot || !sheet) return null
  const around = sheet.getBoundingClientRect()
  return (
    <Popover.Root open onOpenChange={(open) => !open && onDone()}>
      <Popover.Anchor asChild>
        <span
          className="pointer-events-none fixed"
          style={{
            left: around.left + spot.x * scale,
            top: around.top + spot.y * scale,
            width: Math.min(spot.width * scale, 40),
            height: spot.height * scale,
          }}
        />
      </Popover.Anchor>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          collisionPadding={12}
          className="z-40 border border-hair bg-paper p-2"
          onOpenAutoFocus={(event) => event.preventDefault()}
          onCloseAutoFocus={(event) => event.preventDefault()}
        >
          <PlaceMenu placing={placing} onDone={onDone} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
