import { Popover } from 'radix-ui'
import { type KeyboardEvent, useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { useStore } from 'zustand'
import type { FormPage, TextCue } from '#core/document/tree.ts'
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
import { pagesOf, Placing } from './placing.ts'
import { Sheet } from './sheet.tsx'

const NOTHING: readonly string[] = []

/** The pages of a form with everything placed on them. */
export function FormEditor({ draft, goTo }: { readonly draft: TemplateDraft; readonly goTo: string | null }) {
  const { content, editable, all } = useStudio()
  const [placing] = useState(() => new Placing(() => draft.content, draft.change))
  const state = useStore(placing.shown)
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
