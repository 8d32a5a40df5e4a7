import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core'
import { SortableContext, sortableKeyboardCoordinates, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { useState } from 'react'
import type { PartySetting } from '#contract/sending.ts'
import { movedTo, ordersOf, placedBy } from '#core/ceremony/order.ts'
import type { PartyKind } from '#core/ceremony/parties.ts'
import { Button } from '#web/parts/button.tsx'
import { Person } from './person.tsx'
import { SendParty } from './send-party.tsx'

const blank = (kind: PartyKind): PartySetting => ({
  id: null,
  kind,
  name: '',
  email: '',
  phone: '',
  language: null,
  order: 1,
  linkBy: 'mail',
  check: 'link',
  code: null,
  message: '',
  mayDecline: true,
  mayHandOver: false,
  copyNow: false,
})

/** Who signs or agrees, in an order that is dragged or moved by keys; and who gets a copy. */
export function SendParties({
  parties,
  doubts,
  shown,
  onShow,
  onChange,
  notice,
}: {
  readonly parties: readonly PartySetting[]
  readonly doubts: readonly (readonly string[])[]
  readonly shown: number
  readonly onShow: (place: number) => void
  readonly onChange: (parties: PartySetting[]) => void
  /** Nobody signs it. */
  readonly notice: boolean
}) {
  const [adding, setAdding] = useState<PartyKind | null>(null)
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  const numbered = parties.map((party, place) => ({ ...party, place }))
  const acting = placedBy(numbered.filter(({ kind }) => kind !== 'copy'))
  const copies = numbered.filter(({ kind }) => kind === 'copy')
  const idOf = (place: number) => `party-${place}`
  /** The list as it stands now, back into the places that everything else is counted by. */
  const put = (list: typeof acting) => {
    const orders = ordersOf(list)
    const byPlace = new Map(list.map(({ place }, i) => [place, orders[i]!]))
    onChange(parties.map((party, i) => ({ ...party, order: byPlace.get(i) ?? party.order })))
  }
  const set = (place: number, change: Partial<PartySetting>) =>
    onChange(parties.map((party, i) => (i === place ? { ...party, ...change } : party)))
  const drop = (place: number) => onChange(parties.filter((_, i) => i !== place))
  const dropped = ({ active, over }: DragEndEvent) => {
    const at = (id: unknown) => acting.findIndex(({ place }) => idOf(place) === id)
    if (over && active.id !== over.id) put(movedTo(acting, at(active.id), at(over.id)))
  }
  const move = (at: number, by: number) => {
    const to = at + by
    if (to >= 0 && to < acting.length) put(movedTo(acting, at, to))
  }
  const rowOf = (place: number) => ({
    party: parties[place]!,
    doubts: doubts[place] ?? [],
    shown: shown === place,
    onShow: () => onShow(place),
    onChange: (change: Partial<PartySetting>) => set(place, change),
    onDrop: parties[place]!.kind === 'signer' ? undefined : () => drop(place),
  })
  return (
    <section aria-label="Parties">
      <h2 className="mb-1 font-serif text-base font-semibold">
        {notice ? 'Recipients' : 'Signers, in order'}
      </h2>
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
        <SortableContext
          items={acting.map(({ place }) => idOf(place))}
          strategy={verticalListSortingStrategy}
        >
          <ol>
            {acting.map(({ place, joined }, at) => (
              <SendParty
                key={idOf(place)}
                id={idOf(place)}
                {...rowOf(place)}
                order={ordersOf(acting)[at]!}
                joined={at === 0 ? null : joined}
                onJoin={(on) => put(acting.map((each, i) => (i === at ? { ...each, joined: on } : each)))}
                onMove={(by) => move(at, by)}
              />
            ))}
          </ol>
        </SortableContext>
      </DndContext>
      {copies.length > 0 && (
        <>
          {!notice && <h3 className="mt-4 mb-1 text-sm font-semibold">Who gets a copy</h3>}
          <ul>
            {copies.map(({ place }) => (
              <SendParty key={idOf(place)} id={idOf(place)} {...rowOf(place)} order={null} joined={null} />
            ))}
          </ul>
        </>
      )}
      {adding ? (
        <Person
          kind={adding}
          onCancel={() => setAdding(null)}
          onAdd={(person) => {
            setAdding(null)
            const last = Math.max(0, ...parties.map(({ order }) => order))
            onChange([
              ...parties,
              { ...blank(adding), ...person, order: adding === 'copy' ? 1 : Math.min(25, last + 1) },
            ])
          }}
        />
      ) : (
        <p className="mt-2 flex gap-2">
          {!notice && (
            <Button kind="quiet" onClick={() => setAdding('assenter')}>
              Add a person who agrees without signing
            </Button>
          )}
          <Button kind="quiet" onClick={() => setAdding('copy')}>
            {notice ? 'Add a recipient' : 'Add a copy recipient'}
          </Button>
        </p>
      )}
    </section>
  )
}
