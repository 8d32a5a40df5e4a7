import type { Transaction } from '@tiptap/pm/state'
import { ReplaceStep } from '@tiptap/pm/transform'

/** Whether a transaction only puts letters into a text: then no node came, went or moved into another. */
export const isTyping = (transaction: Transaction): boolean =>
  transaction.steps.length > 0 &&
  transaction.steps.every(
    (step) =>
      step instanceof ReplaceStep &&
      step.from === step.to &&
      step.slice.content.childCount === 1 &&
      step.slice.content.firstChild!.isText,
  )
