import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { call } from '#web/api/client.ts'

// Light on purpose: lists have a button to bring files in, and load nothing of the editor for it.

/** Kinds of files that can be brought in as pages. */
export const PAGE_FILES =
  '.pdf,.docx,.xlsx,.odt,.ods,.png,.jpg,.jpeg,.tif,.tiff,application/pdf,image/png,image/jpeg,image/tiff'

export type Brought = Answer<Api['bringIn']>

/** Brings files in, one after the other; `onStep` hears which of them is read now, from 1. */
export async function bringFiles(
  files: readonly [File, ...File[]],
  onStep: (now: number) => void = () => undefined,
): Promise<readonly [Brought, ...Brought[]]> {
  const brought: Brought[] = []
  for (const file of files) {
    onStep(brought.length + 1)
    brought.push(await call('bringIn', { query: { name: file.name }, body: file }))
  }
  return brought as [Brought, ...Brought[]]
}

/** What pages are called by themselves: the file’s name without its ending. */
export const titleOf = (name: string, otherwise: string): string =>
  name
    .replace(/\.[a-z0-9]{2,5}$/i, '')
    .replaceAll('_', ' ')
    .trim() || otherwise
