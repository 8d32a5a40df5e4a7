import { useMutation } from '@tanstack/react-query'
import {
  FilePlus2,
  FileStack,
  PanelLeft,
  Redo2,
  ScanSearch,
  TextCursorInput,
  Undo2,
  Magnet,
} from 'lucide-react'
import { Popover } from 'radix-ui'
import { useCallback, useEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react'
import type { KeyboardEvent } from 'react'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { FormPage, TextCue } from '#core/document/tree.ts'
import { withMarked } from '#core/form/marked.ts'
import { pagesOfFile } from '#core/form/new-form.ts'
import { wordsBeside } from '#core/form/replace.ts'
import { fieldsByName } from '#core/outline/field.ts'
import { useSearchParams } from 'react-router'
import { call, problemText } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Gap, Tool } from '#web/areas/templates/editor/tool.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import type { DraftKeeper } from '#web/areas/templates/draft/keeper.ts'
import { useZoom } from '#web/parts/pages/zoom.tsx'
import { PAGE_FILES } from './bring-files.ts'
import { ChosenStrip } from './chosen-strip.tsx'
import { FindsBar, useFinds } from './finds.tsx'
import type { Find } from './finds.tsx'
import { usePageRead } from './page-files.ts'
import { PageStrip } from './page-strip.tsx'
import { PlaceMenu } from './place-menu.tsx'
import { newId, pagesOf, Placing } from './placing.ts'
import { ReplaceDialog } from './replace-dialog.tsx'
import { Sheet } from './sheet.tsx'

const NOTHING: readonly string[] = []

/** The pages of a form with everything placed on them. */
export function FormEditor({ draft, goTo }: { readonly draft: DraftKeeper; readonly goTo: string | null }) {
  const { content, editable, all } = useStudio()
  const [placing] = useState(() => new Placing(() => draft.content, draft.change))
  const state = useSyncExternalStore(placing.subscribe, placing.state)
  const pages = pagesOf(content).content
  const scroller = useRef<HTMLDivElement>(null)
  const [room, setRoom] = useState({ width: 0, height: 0 })
  const [strip, setStrip] = useState(false)
  const [snap, setSnap] = useState(true)
  const [looking, setLooking] = useState<'likely' | 'fields' | null>(null)
  const [atFind, setAtFind] = useState<string | null>(null)
  const [inView, setInView] = useState(0)
  useEffect(() => {
    if (!scroller.current) return
    const observer = new ResizeObserver(([entry]) =>
      setRoom({ width: Math.floor(entry!.contentRect.width), height: Math.floor(entry!.contentRect.height) }),
    )
    observer.observe(scroller.current)
    return () => observer.disconnect()
  }, [])
  const noted = pages.some(
    (page) => page.content.some(({ attrs }) => attrs.condition) || page.attrs.condition,
  )
  const {
    scale,
    onKey: zoomKey,
    bar,
  } = useZoom(pages[0]?.attrs, {
    ...room,
    width: room.width - (noted ? 128 : 24),
  })
  const fields = useMemo(() => fieldsByName(all), [all])
  const labelOf = useCallback((field: string) => fields.get(field)?.field.label ?? field, [fields])
  const chosen = placing.chosen
  const focus = useCallback(() => scroller.current?.focus({ preventScroll: true }), [])
  const show = useCallback((id: string) => {
    const element = scroller.current?.querySelector(`[data-placement="${id}"], [data-sheet="${id}"]`)
    element?.scrollIntoView({ block: 'center' })
  }, [])
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
  const file = pages[inView]?.attrs.file ?? pages[0]?.attrs.file ?? null
  const { finds, pending } = useFinds(pages, looking ?? 'likely', looking ? file : null)
  const follow = useCues(placing, draft)
  const one = chosen.length === 1 ? chosen[0]! : null
  const onPage = pages.find(({ content: placed }) => placed.some(({ attrs }) => attrs.id === one?.attrs.id))
  const read = usePageRead(onPage?.attrs.file ?? '', onPage?.attrs.page ?? 1, onPage !== undefined)
  const proposed = one && read ? (wordsBeside(one, read)?.phrase ?? '') : ''
  const onKey = (event: KeyboardEvent) => {
    if (event.target instanceof HTMLInputElement || event.target instanceof HTMLSelectElement) return
    const done = editable && keyAct(event, placing, pages, pages[inView]?.attrs.id ?? null, show)
    if (done) event.preventDefault()
    else if (event.target === scroller.current) zoomKey(event)
  }
  const report = () => {
    const box = scroller.current
    if (!box) return
    const middle = box.getBoundingClientRect().top + box.clientHeight / 2
    const found = [...box.querySelectorAll('[data-sheet]')].findLastIndex(
      (element) => element.getBoundingClientRect().top < middle,
    )
    setInView(Math.max(0, found))
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
        onLook={(what) => {
          setLooking((now) => (now === what ? null : what))
          setAtFind(null)
        }}
      />
      {looking && editable && (
        <FindsBar
          key={looking}
          finds={finds}
          pending={pending}
          what={looking}
          placing={placing}
          at={atFind}
          onAt={(key) => {
            setAtFind(key)
            const find = finds.find((each) => each.key === key)
            if (find) scrollToFind(scroller.current, find, scale)
          }}
          onClose={() => setLooking(null)}
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
                      looking ? (
                        <FoundOn page={page} finds={finds} scale={scale} at={atFind} placing={placing} />
                      ) : null
                    }
                    onFocus={focus}
                  />
                ))}
              </div>
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
          {scale > 0 && bar}
        </div>
      </div>
      {editable && (
        <ChosenStrip
          chosen={chosen}
          placing={placing}
          proposedCue={proposed}
          onCue={(id, cue) => follow(id, cue)}
        />
      )}
    </div>
  )
}

/** The same list while nothing of it changes, so that only pages whose choice changes are drawn anew. */
const chosenOn = (page: FormPage, chosen: readonly string[]): readonly string[] => {
  const own = chosen.filter((id) => page.content.some(({ attrs }) => attrs.id === id))
  return own.length ? own : NOTHING
}

/** Gives a placement its cue; beside every occurrence the server finds them. */
function useCues(placing: Placing, draft: DraftKeeper) {
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

const STEP = { plain: 1, far: 10, fine: 0.25 } as const

/** What a key does on the pages; false where it does nothing. */
function keyAct(
  event: KeyboardEvent,
  placing: Placing,
  pages: readonly FormPage[],
  inView: string | null,
  show: (id: string) => void,
): boolean {
  const { chosen, spot } = placing.state()
  const command = event.ctrlKey || event.metaKey
  const arrows: Readonly<Record<string, readonly [number, number]>> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  }
  const arrow = arrows[event.key]
  const by = event.shiftKey ? STEP.far : event.altKey ? STEP.fine : STEP.plain
  if (arrow && chosen.length) return (placing.moveBy(arrow[0] * by, arrow[1] * by, 'nudge'), true)
  if (command && event.key === 'd')
    return (placing.copy(), inView && placing.paste(pageOf(pages, chosen) ?? inView), true)
  if (command && event.key === 'c' && chosen.length) return (placing.copy(), true)
  if (command && event.key === 'v' && inView) return (placing.paste(pageOf(pages, chosen) ?? inView), true)
  if (command && event.key === 'a') {
    const page = pages.find(({ attrs }) => attrs.id === (pageOf(pages, chosen) ?? inView))
    placing.choose(page?.content.map(({ attrs }) => attrs.id) ?? [])
    return true
  }
  if (command) return false
  if ((event.key === 'Delete' || event.key === 'Backspace') && chosen.length) return (placing.remove(), true)
  if (event.key === 'Escape' && (chosen.length || spot)) return (placing.choose([]), true)
  if (event.key === 'Tab') return tab(event.shiftKey ? -1 : 1, placing, pages, show)
  if (event.key === 'Enter' && chosen.length === 0 && inView) {
    // Without a pointer a place begins in the middle of the page, and is moved by the arrows.
    const page = pages.find(({ attrs }) => attrs.id === inView)!.attrs
    placing.open({
      page: inView,
      x: page.width / 2 - 70,
      y: page.height / 2,
      width: 140,
      height: 15,
      drawn: false,
    })
    return true
  }
  return false
}

const pageOf = (pages: readonly FormPage[], chosen: readonly string[]): string | null =>
  pages.find(({ content }) => content.some(({ attrs }) => attrs.id === chosen[0]))?.attrs.id ?? null

/** From place to place in the order a reader meets them; at either end the focus goes on. */
function tab(by: 1 | -1, placing: Placing, pages: readonly FormPage[], show: (id: string) => void): boolean {
  const inOrder = pages.flatMap(({ content }) =>
    [...content].sort((a, b) => a.attrs.y - b.attrs.y || a.attrs.x - b.attrs.x).map(({ attrs }) => attrs.id),
  )
  const [now] = placing.state().chosen
  const at = now === undefined ? (by > 0 ? -1 : inOrder.length) : inOrder.indexOf(now)
  const next = inOrder[at + by]
  if (next === undefined) return false
  placing.choose([next])
  show(next)
  return true
}

/** Undo, pages, what is found, other versions. */
function FormTools({
  draft,
  placing,
  pages,
  file,
  inView,
  shown,
  onStrip,
  onSnap,
  onLook,
}: {
  readonly draft: DraftKeeper
  readonly placing: Placing
  readonly pages: readonly FormPage[]
  readonly file: string | null
  readonly inView: number
  readonly shown: {
    readonly strip: boolean
    readonly snap: boolean
    readonly looking: 'likely' | 'fields' | null
  }
  readonly onStrip: () => void
  readonly onSnap: () => void
  readonly onLook: (what: 'likely' | 'fields') => void
}) {
  const { editable } = useStudio()
  const { steps } = useSyncExternalStore(draft.subscribe, draft.state)
  const say = useNotice()
  const input = useRef<HTMLInputElement>(null)
  const [wanted, setWanted] = useState<'add' | 'replace'>('add')
  const [replaced, setReplaced] = useState<Answer<Api['replacePages']> | null>(null)
  const bring = useMutation({
    mutationFn: async (chosen: File) => {
      const brought = await call('bringIn', { query: { name: chosen.name }, body: chosen })
      const left = brought.report.filter(({ kind }) => kind !== 'carried over')
      if (left.length)
        say(left.map(({ what, count }) => (count > 1 ? `${what} (${count})` : what)).join('; '), 'done')
      if (wanted === 'add') {
        placing.addPages(pagesOfFile(brought, newId), inView + 1)
        draft.change((now) => withMarked(now, brought.file, brought.fields, newId))
      } else if (file)
        setReplaced(
          await call('replacePages', { body: { content: draft.content, old: file, file: brought.file } }),
        )
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  // Whoever brought in another version of a form from the list comes here with it.
  const [search, setSearch] = useSearchParams()
  const version = search.get('replace')
  useEffect(() => {
    if (!version) return
    const old = search.get('of') ?? file
    setSearch({}, { replace: true })
    if (!old) return
    void call('replacePages', { body: { content: draft.content, old, file: version } })
      .then(setReplaced)
      .catch((error: unknown) => say(problemText(error), 'fault'))
  }, [version, search, setSearch, file, draft, say])
  const ask = (what: 'add' | 'replace') => {
    setWanted(what)
    input.current?.click()
  }
  return (
    <div
      role="toolbar"
      aria-label="Pages"
      className="flex shrink-0 flex-wrap items-center gap-0.5 border-b border-hair px-2 py-1"
    >
      <Tool label="Pages to put in order" active={shown.strip} onClick={onStrip}>
        <PanelLeft size={15} />
      </Tool>
      {editable && (
        <>
          <Gap />
          <Tool label="Undo (Ctrl Z)" disabled={steps.undo === 0} onClick={draft.undo}>
            <Undo2 size={15} />
          </Tool>
          <Tool label="Redo (Ctrl Shift Z)" disabled={steps.redo === 0} onClick={draft.redo}>
            <Redo2 size={15} />
          </Tool>
          <Gap />
          <Tool label="Likely blanks" active={shown.looking === 'likely'} onClick={() => onLook('likely')}>
            <ScanSearch size={15} /> Likely blanks
          </Tool>
          <Tool
            label="Its fields: those the file has itself"
            active={shown.looking === 'fields'}
            onClick={() => onLook('fields')}
          >
            <TextCursorInput size={15} /> Its fields
          </Tool>
          <Gap />
          <Tool label="Hold on to lines of the page (Alt: not)" active={shown.snap} onClick={onSnap}>
            <Magnet size={15} />
          </Tool>
          <Gap />
          <Tool label="Add pages from a file" disabled={bring.isPending} onClick={() => ask('add')}>
            <FilePlus2 size={15} /> Add pages
          </Tool>
          <Tool
            label="Other version of the file, in its place"
            disabled={bring.isPending || !file}
            onClick={() => ask('replace')}
          >
            <FileStack size={15} /> Other version
          </Tool>
          {bring.isPending && (
            <span role="status" className="text-xs text-soft">
              Reading the file …
            </span>
          )}
          <input
            ref={input}
            type="file"
            hidden
            aria-label={wanted === 'add' ? 'File to add' : 'Other version of the file'}
            accept={PAGE_FILES}
            onChange={(event) => {
              const [chosen] = event.target.files ?? []
              event.target.value = ''
              if (chosen) bring.mutate(chosen)
            }}
          />
        </>
      )}
      <span className="ml-auto pr-1 text-xs text-soft">
        page {inView + 1} of {pages.length}
      </span>
      {replaced && (
        <ReplaceDialog
          replaced={replaced}
          before={pages}
          onTake={() => {
            draft.change(() => replaced.content)
            setReplaced(null)
          }}
          onClose={() => setReplaced(null)}
        />
      )}
    </div>
  )
}
