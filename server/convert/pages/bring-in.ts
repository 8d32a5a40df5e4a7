import type { FoundField, PageRead } from '#core/form/page-read.ts'
import { apart } from '../apart.ts'
import { isOffice, officePages } from './office.ts'
import { PAGE_LIMITS, type PageRemark, type ReadTold } from './page-limits.ts'

/** A file as pages: a PDF of ours with nothing in it but what is seen, and what was read on each page. */
export type BroughtIn =
  | {
      readonly ok: true
      readonly pdf: Uint8Array
      readonly pages: readonly PageRead[]
      readonly fields: readonly FoundField[]
      readonly remarks: readonly PageRemark[]
    }
  | { readonly ok: false; readonly problem: string }

const fail = (problem: string): BroughtIn => ({ ok: false, problem })

/** What the program that reads pages may use: seconds, megabytes, bytes. */
const LIMITS = { seconds: 200, silent: 40, heap: 1125, memory: 1500, answer: 400_000_000 } as const

/** Makes pages of a file of whatever kind. What it is, its own bytes tell, never its name. */
export async function bringIn(bytes: Uint8Array): Promise<BroughtIn> {
  if (bytes.length === 0) return fail('The file is empty.')
  if (bytes.length > PAGE_LIMITS.bytes)
    return fail(
      `The file is larger than ${PAGE_LIMITS.bytes / 1_000_000} MB. Split it, or scan it with fewer dots.`,
    )
  if (!(await isOffice(bytes))) return read(bytes)
  const converted = await officePages(bytes)
  if (!converted.ok) return converted
  const brought = await read(converted.pdf)
  return brought.ok ? { ...brought, remarks: [...converted.remarks, ...brought.remarks] } : brought
}

async function read(bytes: Uint8Array): Promise<BroughtIn> {
  const answer = await apart('server/convert/pages/read-pages', bytes, LIMITS)
  const length = answer.length >= 4 ? answer.readUInt32BE(0) : 0
  if (length === 0 || answer.length < 4 + length)
    return fail(
      'The file takes more time or memory to read than there is for it, or is damaged. Print it into a new PDF.',
    )
  const head = JSON.parse(answer.toString('utf8', 4, 4 + length)) as ReadTold
  if ('problem' in head) return fail(head.problem)
  return { ok: true, ...head, pdf: Uint8Array.from(answer.subarray(4 + length)) }
}
