import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { StartOneOff } from '#web/areas/agreements/one-off/start-one-off.tsx'
import { PickList } from '#web/parts/pick-list.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { PACKET } from './use-one-agreement.ts'

/** A template or packet that an agreement can be made from now. */
export interface Choice {
  /** As the address and the server's routes are told it. */
  readonly value: string
  readonly name: string
  readonly says: string
}

/** What can be chosen: published templates of shelves that are open to whoever looks, and packets without a fault. */
export const choicesOf = (
  templates: Answer<Api['templates']>,
  packets: Answer<Api['packets']>,
): readonly Choice[] => [
  ...templates
    .filter(({ latestEdition, may }) => latestEdition !== null && may.use)
    .map(({ id, name, latestEdition }) => ({ value: id, name, says: `edition ${latestEdition}` })),
  ...packets
    .filter(({ problem }) => problem === null)
    .map(({ id, name, templates: parts }) => ({
      value: `${PACKET}${id}`,
      name,
      says: `packet of ${plural(parts.length, 'document')}`,
    })),
]

/** A list to choose a template or packet from, found by a few letters; or a file that somebody brings. */
export function WhatChoice({
  choices,
  chosen,
  record,
  onChoose,
}: {
  readonly choices: readonly Choice[]
  readonly chosen: string | null
  /** Whose the agreement is to be, where that is chosen already. */
  readonly record: string | null
  readonly onChoose: (value: string) => void
}) {
  return (
    <>
      <h2 className="mb-2 font-serif text-base font-semibold">What</h2>
      {choices.length === 0 ? (
        <p className="max-w-md text-sm text-soft">
          No template is published yet. Publish one under Templates, or begin with a file: its pages are
          signed as they are.
        </p>
      ) : (
        <PickList
          label="Template or packet"
          placeholder="Find a template or packet"
          focused={chosen === null}
          picks={choices.map(({ value, name, says }) => ({ value, label: name, hint: says }))}
          chosen={chosen}
          none="No template or packet has this name."
          onChoose={onChoose}
        />
      )}
      <p className="mt-4 flex items-center gap-3 text-sm text-soft">
        Without a template: <StartOneOff record={record}>From a file</StartOneOff>
      </p>
    </>
  )
}

/** The same as a menu, where the agreement is being made already. */
export const WhatSelect = ({
  choices,
  chosen,
  onChoose,
}: {
  readonly choices: readonly Choice[]
  readonly chosen: string
  readonly onChoose: (value: string) => void
}) => (
  <label className="flex items-baseline gap-2 text-sm">
    <span className="text-soft">from</span>
    <select
      aria-label="Template or packet"
      className="max-w-80 rounded-sm border border-hair bg-sheet px-1.5 py-1"
      value={chosen}
      onChange={(event) => onChoose(event.target.value)}
    >
      {choices.map(({ value, name, says }) => (
        <option key={value} value={value}>
          {name}, {says}
        </option>
      ))}
    </select>
  </label>
)
