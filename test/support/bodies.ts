import type { Body, DocumentTree } from '#core/document/tree.ts'
import { isText } from '#core/document/walk.ts'
import type { FinishedDocument, FinishedText } from '#core/merge/finished.ts'

/** A body that has to be a text. */
export function writtenIn(body: Body): DocumentTree {
  if (!isText(body)) throw new Error('A form stands where a text was meant.')
  return body
}

/** A finished document that has to be a text. */
export function finishedText(document: FinishedDocument): FinishedText {
  if (document.body !== 'text') throw new Error('Pages stand where a text was meant.')
  return document
}
