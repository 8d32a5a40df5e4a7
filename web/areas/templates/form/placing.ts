import { createStore } from 'zustand/vanilla'
import { plainStyle, type TemplateContent } from '#core/document/template.ts'
import type {
  BlankKind,
  BlankPlace,
  Box,
  FormPage,
  PagesTree,
  PlacedStyle,
  Placement,
  TextCue,
  Turn,
} from '#core/document/tree.ts'
import { arranged, type Arrangement, boxOf, copyOf, looked, moved, withBoxes } from '#core/form/arrange.ts'
import { BLANK_SIZES, placedBlank, placedField, styleFor } from '#core/form/new-form.ts'
import { turnPage } from '#core/form/turn.ts'
import type { Change } from '#web/areas/templates/draft/template-draft.ts'
import { FIELD_SIZE, inside, LABELS, onlyBox, sized } from './placed-boxes.ts'
import { newId, pagesOf } from './form-pages.ts'

/** Where something is to be placed: on a page, by its id, in points; `drawn`: of the size that was drawn. */
export interface Spot extends Box {
  readonly page: string
  readonly drawn: boolean
}

export interface PlacingState {
  /** Ids of what is chosen, the one chosen first at the head: others are measured by it. */
  readonly chosen: readonly string[]
  /** The menu at the pointer is open for this place. */
  readonly spot: Spot | null
  /** The role that new blanks get. */
  readonly role: string | null
}

/**
 * What hands do on the pages of a form: choosing, placing, moving, copying. The draft itself is its keeper's: each act here is one
 * change of it, so that undo knows it. Acts of one kind that follow fast (nudging) are undone together.
 */
export class Placing {
  readonly shown = createStore<PlacingState>()(() => ({ chosen: [], spot: null, role: null }))
  private kept: readonly Placement[] = []
  private pasted = 0

  constructor(
    private readonly content: () => TemplateContent,
    private readonly change: Change,
  ) {}

  readonly state = (): PlacingState => this.shown.getState()

  /** Placements that are chosen and still there, in the order they were chosen. */
  get chosen(): readonly Placement[] {
    const all = new Map(
      pagesOf(this.content()).content.flatMap((page) =>
        page.content.map((each) => [each.attrs.id, each] as const),
      ),
    )
    return this.state().chosen.flatMap((id) => all.get(id) ?? [])
  }

  readonly choose = (ids: readonly string[]): void => this.set({ chosen: ids, spot: null })
  readonly toggle = (id: string): void =>
    this.choose(
      this.state().chosen.includes(id)
        ? this.state().chosen.filter((each) => each !== id)
        : [...this.state().chosen, id],
    )
  readonly open = (spot: Spot | null): void => this.set({ spot, ...(spot ? { chosen: [] } : {}) })
  readonly setRole = (role: string): void => this.set({ role })

  /** The role that a new blank gets: the last one used, or the first there is. */
  get role(): string | null {
    const { roles } = this.content()
    const { role } = this.state()
    return roles.some(({ key }) => key === role) ? role : (roles[0]?.key ?? null)
  }

  /** Puts a blank at the place the menu is open for. */
  readonly placeBlank = (kind: BlankKind, role: string): void => {
    const { spot } = this.state()
    if (!spot) return
    const box = spot.drawn ? spot : sized(spot, BLANK_SIZES[kind])
    const id = newId()
    const more = kind === 'choice' ? { options: ['yes', 'no'], most: 1 } : {}
    this.add(
      spot.page,
      placedBlank(
        id,
        onlyBox(box),
        { kind, role, label: LABELS[kind], required: kind !== 'tick', ...more },
        {
          style: styleFor(box),
        },
      ),
    )
    this.set({ role })
  }

  readonly placeField = (field: string): void => {
    const { spot } = this.state()
    if (!spot) return
    this.add(spot.page, placedField(newId(), onlyBox(spot.drawn ? spot : sized(spot, FIELD_SIZE)), field))
  }

  readonly placeWords = (text: string): void => {
    const { spot } = this.state()
    if (!spot) return
    const box = onlyBox(spot.drawn ? spot : sized(spot, FIELD_SIZE))
    this.add(spot.page, {
      type: 'placement',
      attrs: { id: newId(), condition: null, ...box, style: styleFor(box) },
      content: [{ type: 'text', text }],
    })
  }

  /** Puts things on pages that were found there, as one act; what is on a page already stays. */
  readonly take = (placed: readonly { readonly page: string; readonly placement: Placement }[]): void => {
    if (placed.length === 0) return
    this.pages((document) => ({
      ...document,
      content: document.content.map((page) => ({
        ...page,
        content: [
          ...page.content,
          ...placed.filter((each) => each.page === page.attrs.id).map(({ placement }) => placement),
        ],
      })),
    }))
    this.choose(placed.map(({ placement }) => placement.attrs.id))
  }

  readonly moveBy = (dx: number, dy: number, kind = ''): void => {
    const boxes = new Map(
      this.chosen.map((each) => [
        each.attrs.id,
        { ...boxOf(each), x: each.attrs.x + dx, y: each.attrs.y + dy },
      ]),
    )
    if (boxes.size && (dx || dy)) this.pages((document) => withBoxes(document, boxes), kind)
  }

  /** Moves what is chosen onto another page; `dx` and `dy` in that page's own points. */
  readonly carry = (page: string, dx: number, dy: number): void => {
    const going = this.placed()
    const ids = new Set(going.map(({ placement }) => placement.attrs.id))
    const size = this.sizeOf(page)
    this.pages((document) => ({
      ...document,
      content: document.content.map((each) => {
        const staying = each.content.filter(({ attrs }) => !ids.has(attrs.id))
        if (each.attrs.id !== page)
          return staying.length === each.content.length ? each : { ...each, content: staying }
        return {
          ...each,
          content: [
            ...staying,
            ...going.map(({ placement }) =>
              moved(
                placement,
                { ...boxOf(placement), x: placement.attrs.x + dx, y: placement.attrs.y + dy },
                size,
              ),
            ),
          ],
        }
      }),
    }))
  }

  readonly setBox = (id: string, box: Box, kind = ''): void =>
    this.pages((document) => withBoxes(document, new Map([[id, box]])), kind)

  /** What is chosen stands right where it is. */
  readonly standsRight = (): void => {
    const ids = new Set(this.state().chosen)
    this.pages((document) => ({
      ...document,
      content: document.content.map((page) => ({
        ...page,
        content: page.content.map((each) => (ids.has(each.attrs.id) ? looked(each) : each)),
      })),
    }))
  }

  readonly arrange = (how: Arrangement): void => {
    const boxes = arranged(
      this.chosen.map((each) => ({ ...boxOf(each), id: each.attrs.id })),
      how,
    )
    this.pages((document) => withBoxes(document, boxes))
  }

  readonly remove = (): void => {
    const gone = new Set(this.state().chosen)
    if (gone.size === 0) return
    this.pages((document) => ({
      ...document,
      content: document.content.map((page) =>
        page.content.some(({ attrs }) => gone.has(attrs.id) || gone.has(attrs.of ?? ''))
          ? {
              ...page,
              content: page.content.filter(({ attrs }) => !gone.has(attrs.id) && !gone.has(attrs.of ?? '')),
            }
          : page,
      ),
    }))
    this.choose([])
  }

  readonly copy = (): void => {
    this.kept = this.chosen
    this.pasted = 0
  }

  /** Puts what was copied on a page, a little further each time; on another page where it stood on its own. */
  readonly paste = (page: string): void => {
    const step = ++this.pasted * PASTE_STEP
    const there = pagesOf(this.content()).content.find(({ attrs }) => attrs.id === page)
    const same = there?.content.some(({ attrs }) => this.kept.some((each) => each.attrs.id === attrs.id))
    this.take(
      this.kept.map((each) => ({
        page,
        placement: copyOf(
          each,
          newId,
          same || this.pasted > 1 ? { x: each.attrs.x + step, y: each.attrs.y + step } : {},
        ),
      })),
    )
  }

  /** Copies below each other, `times` more, `apart` points from one top to the next: down the rows of a table. */
  readonly downTable = (times: number, apart: number): void =>
    this.take(
      this.placed().flatMap(({ page, placement }) =>
        Array.from({ length: times }, (_, i) => ({
          page: page.attrs.id,
          placement: copyOf(placement, newId, { y: placement.attrs.y + (i + 1) * apart }),
        })).filter(({ placement: copy }) => copy.attrs.y + copy.attrs.height <= page.attrs.height),
      ),
    )

  /** The same place on every other page that has room for it. */
  readonly onEveryPage = (): void => {
    const own = this.placed()
    this.take(
      pagesOf(this.content()).content.flatMap((page) =>
        own
          .filter((each) => each.page.attrs.id !== page.attrs.id)
          .map(({ placement }) => ({ page: page.attrs.id, placement: copyOf(placement, newId) }))
          .filter(
            ({ placement: { attrs } }) =>
              attrs.x + attrs.width <= page.attrs.width && attrs.y + attrs.height <= page.attrs.height,
          ),
      ),
    )
  }

  /** Changes how words are set in all that is chosen. */
  readonly setStyle = (style: Partial<PlacedStyle>): void =>
    this.each((placement) => ({
      ...placement,
      attrs: { ...placement.attrs, style: { ...plainStyle, ...placement.attrs.style, ...style } },
    }))

  readonly setCondition = (condition: string | null): void =>
    this.each((placement) => ({ ...placement, attrs: { ...placement.attrs, condition } }))

  readonly setCue = (id: string, cue: TextCue | null): void =>
    this.pages((document) => ({
      ...document,
      content: document.content.map((page) => ({
        ...page,
        // Copies that the cue made go with it; they come again where it asks for them.
        content: page.content
          .filter(({ attrs }) => attrs.of !== id)
          .map((placement) =>
            placement.attrs.id === id ? { ...placement, attrs: { ...placement.attrs, cue } } : placement,
          ),
      })),
    }))

  /** Changes what stands in one placement. */
  readonly setContent = (id: string, content: Placement['content']): void =>
    this.each((placement) => (placement.attrs.id === id ? { ...placement, content } : placement), [id])

  readonly setBlank = (id: string, attrs: Omit<BlankPlace['attrs'], 'id'>): void => {
    this.each(
      (placement) => ({
        ...placement,
        content: placement.content.map((part) =>
          part.type === 'blank' ? { ...part, attrs: { ...attrs, id: part.attrs.id } } : part,
        ),
      }),
      [id],
    )
    this.set({ role: attrs.role })
  }

  // --- pages ------------------------------------------------------------------------------------------------------

  readonly movePage = (id: string, to: number): void =>
    this.pages((document) => {
      const from = document.content.findIndex(({ attrs }) => attrs.id === id)
      const page = document.content[from]
      if (!page || to < 0 || to >= document.content.length || to === from) return document
      return { ...document, content: document.content.toSpliced(from, 1).toSpliced(to, 0, page) }
    })

  readonly turn = (id: string, by: Turn): void =>
    this.pages((document) => ({
      ...document,
      content: document.content.map((page) => (page.attrs.id === id ? turnPage(page, by) : page)),
    }))

  /** Takes a page out with all on it; the last one stays. */
  readonly dropPage = (id: string): void =>
    this.pages((document) =>
      document.content.length > 1
        ? { ...document, content: document.content.filter(({ attrs }) => attrs.id !== id) }
        : document,
    )

  readonly copyPage = (id: string): void =>
    this.pages((document) => {
      const at = document.content.findIndex(({ attrs }) => attrs.id === id)
      const page = document.content[at]
      if (!page) return document
      const copy: FormPage = {
        ...page,
        attrs: { ...page.attrs, id: newId() },
        content: page.content.map((placement) => copyOf(placement, newId)),
      }
      return { ...document, content: document.content.toSpliced(at + 1, 0, copy) }
    })

  readonly setPageCondition = (id: string, condition: string | null): void =>
    this.pages((document) => ({
      ...document,
      content: document.content.map((page) =>
        page.attrs.id === id ? { ...page, attrs: { ...page.attrs, condition } } : page,
      ),
    }))

  readonly addPages = (pages: readonly FormPage[], after: number): void =>
    this.pages((document) => ({ ...document, content: document.content.toSpliced(after, 0, ...pages) }))

  readonly setPages = (document: PagesTree): void => this.pages(() => document)

  /** What is chosen, each with its page. */
  private placed(): readonly { readonly page: FormPage; readonly placement: Placement }[] {
    const wanted = new Set(this.state().chosen)
    return pagesOf(this.content()).content.flatMap((page) =>
      page.content.filter(({ attrs }) => wanted.has(attrs.id)).map((placement) => ({ page, placement })),
    )
  }

  private add(page: string, placement: Placement): void {
    this.take([{ page, placement: inside(placement, this.sizeOf(page)) }])
  }

  private sizeOf(page: string): { readonly width: number; readonly height: number } {
    return (
      pagesOf(this.content()).content.find(({ attrs }) => attrs.id === page)?.attrs ?? {
        width: 612,
        height: 792,
      }
    )
  }

  private each(next: (placement: Placement) => Placement, ids = this.state().chosen): void {
    const wanted = new Set(ids)
    this.pages((document) => ({
      ...document,
      content: document.content.map((page) =>
        page.content.some(({ attrs }) => wanted.has(attrs.id))
          ? {
              ...page,
              content: page.content.map((placement) =>
                wanted.has(placement.attrs.id) ? next(placement) : placement,
              ),
            }
          : page,
      ),
    }))
  }

  private pages(next: (document: PagesTree) => PagesTree, kind = ''): void {
    this.change((content) => {
      const before = pagesOf(content)
      const after = next(before)
      return after === before ? content : { ...content, document: after }
    }, kind)
  }

  private set(more: Partial<PlacingState>): void {
    this.shown.setState(more)
  }
}

const PASTE_STEP = 12
