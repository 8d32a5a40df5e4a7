import type { BlankKind, Box, Placement } from '#core/document/tree.ts'
import { boxOf, moved } from '#core/form/arrange.ts'

/** The size of a new merge field, in points. */
export const FIELD_SIZE = { width: 140, height: 15 } as const

/** What a new blank of each kind is called. */
export const LABELS: Readonly<Record<BlankKind, string>> = {
  signature: 'Signature',
  initials: 'Initials',
  date: 'Date signed',
  name: 'Name',
  title: 'Title',
  company: 'Company',
  text: 'Text',
  number: 'Number',
  tick: 'Tick',
  choice: 'Choice',
  file: 'File',
}

/** Position and size alone. */
export const onlyBox = ({ x, y, width, height }: Box): Box => ({ x, y, width, height })

/** A place of another size whose left edge and middle stay: the pointer is in its middle line. */
export const sized = (
  spot: Box,
  { width, height }: { readonly width: number; readonly height: number },
): Box => ({
  x: spot.x,
  y: spot.y + spot.height / 2 - height / 2,
  width,
  height,
})

/** A placement moved so that it lies on its page. */
export const inside = (
  placement: Placement,
  page: { readonly width: number; readonly height: number },
): Placement => moved(placement, boxOf(placement), page)
