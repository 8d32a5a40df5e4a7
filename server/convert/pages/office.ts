import { spawn } from 'node:child_process'
import { mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { PAGE, watched } from '../apart.ts'
import { PackageFault, ZipPackage } from '../zip-package.ts'
import type { PageRemark } from './page-limits.ts'

// Documents of word processors and spreadsheets are laid out by an office suite, which is not ours: it runs without a network, in
// a folder of its own, for a bounded time, and everything it started ends with it.

/** The pages of a document of an office suite, or why there are none. */
export type OfficePages =
  | { readonly ok: true; readonly pdf: Uint8Array; readonly remarks: readonly PageRemark[] }
  | { readonly ok: false; readonly problem: string }

const fail = (problem: string): OfficePages => ({ ok: false, problem })

/** Limits of what is unpacked to look inside. */
const LIMITS = { part: 200_000_000, whole: 400_000_000, parts: 5000 } as const
/** Seconds for one document, megabytes for all that runs for it, how many processes, and bytes of a file it writes. */
export interface OfficeBounds {
  readonly seconds: number
  readonly memory: number
  readonly processes: number
  readonly written: number
}
const BOUNDS: OfficeBounds = { seconds: 90, memory: 1500, processes: 40, written: 400_000_000 }

const OPEN_DOCUMENT = /^application\/vnd\.oasis\.opendocument\.(?:text|spreadsheet)/

/** Whether bytes are a document that an office suite turns into pages. */
export const isOffice = async (bytes: Uint8Array): Promise<boolean> => (await endingOf(bytes)) !== null

async function endingOf(bytes: Uint8Array): Promise<'docx' | 'xlsx' | 'odt' | 'ods' | null> {
  if (bytes[0] !== 0x50 || bytes[1] !== 0x4b) return null
  try {
    const zip = await ZipPackage.open(bytes, LIMITS, 'document')
    if (zip.has('word/document.xml')) return 'docx'
    if (zip.has('xl/workbook.xml')) return 'xlsx'
    const type = Buffer.from((await zip.bytes('mimetype')) ?? '')
      .toString('latin1')
      .trim()
    return OPEN_DOCUMENT.test(type) ? (type.includes('spreadsheet') ? 'ods' : 'odt') : null
  } catch (error) {
    if (error instanceof PackageFault) return null
    throw error
  }
}

/** Turns a document of an office suite into pages, within its time and room. */
export async function officePages(bytes: Uint8Array, bounds: OfficeBounds = BOUNDS): Promise<OfficePages> {
  const ending = await endingOf(bytes)
  if (!ending) return fail('This is no document that can be turned into pages.')
  const folder = await mkdtemp(join(tmpdir(), 'brevan-pages-'))
  try {
    await writeFile(join(folder, `in.${ending}`), bytes)
    const ended = await convert(folder, `in.${ending}`, bounds)
    if (ended !== null) return fail(ended)
    const made = (await readdir(folder)).find((name) => name === 'in.pdf')
    if (!made)
      return fail('The document cannot be turned into pages: it is damaged, or protected with a password.')
    return { ok: true, pdf: Uint8Array.from(await readFile(join(folder, made))), remarks: [] }
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

const MISSING =
  'Documents of word processors and spreadsheets are turned into pages by an office suite, which is not installed here. ' +
  'Whoever runs Brevan adds it with “./brevan add office” (some 500 MB). Until then, save the document as PDF and bring that in.'

/** Runs the office suite; null where it ended by itself, else why it did not. */
function convert(folder: string, name: string, bounds: OfficeBounds): Promise<string | null> {
  return new Promise((resolve) => {
    let why: string | null = null
    // A network of its own with nothing in it: what a document names elsewhere is not fetched.
    const office = spawn(
      'unshare',
      [
        '--map-root-user',
        '--net',
        '--',
        'prlimit',
        `--fsize=${bounds.written}`,
        `--cpu=${bounds.seconds}`,
        'soffice',
        `-env:UserInstallation=file://${join(folder, 'profile')}`,
        '--headless',
        '--norestore',
        '--nolockcheck',
        '--convert-to',
        'pdf',
        '--outdir',
        folder,
        join(folder, name),
      ],
      {
        cwd: folder,
        detached: true,
        stdio: ['ignore', 'ignore', 'pipe'],
        env: { PATH: process.env['PATH'], HOME: folder },
      },
    )
    let said = ''
    office.stderr.on('data', (part: Buffer) => {
      if (said.length < 4000) said += part.toString()
    })
    const told = {
      time: `The document took longer than ${bounds.seconds} seconds to lay out, and was given up. Save it as PDF and bring that in.`,
      room: 'The document needs more memory to lay out than there is for it. Save it as PDF and bring that in.',
    }
    const endAll = () => {
      if (office.pid !== undefined) endGroup(office.pid)
    }
    const tooMuch = async () => {
      if (office.pid === undefined) return false
      const { bytes, processes } = await heldByGroup(office.pid)
      return bytes > bounds.memory * 1_000_000 || processes > bounds.processes
    }
    const stop = watched(bounds.seconds, tooMuch, (reason) => {
      why ??= told[reason]
      endAll()
    })
    const done = (problem: string | null) => {
      stop()
      endAll()
      resolve(problem)
    }
    office.on('error', () => done(MISSING))
    office.on('close', (code) => {
      if (why !== null) return done(why)
      if (/failed to execute soffice|soffice: No such file/i.test(said)) return done(MISSING)
      if (/unshare failed|Operation not permitted/i.test(said))
        return done(
          'Documents are laid out only where that can be done without a network, which this machine does not allow. Save the document as PDF and bring that in.',
        )
      done(
        code === 0
          ? null
          : 'The document cannot be turned into pages: it is damaged, or of a kind that is not known.',
      )
    })
  })
}

/** Ends everything that runs for a document. */
function endGroup(group: number): void {
  try {
    process.kill(-group, 'SIGKILL')
  } catch {
    // It has ended by itself.
  }
}

/** Memory that all processes of a group hold together, and how many they are (proc(5)). */
async function heldByGroup(group: number): Promise<{ readonly bytes: number; readonly processes: number }> {
  const ids = (await readdir('/proc').catch(() => [])).filter((name) => /^\d+$/.test(name))
  const held = await Promise.all(
    ids.map(async (id) => {
      const stat = await readFile(`/proc/${id}/stat`, 'utf8').catch(() => '')
      // The name before may hold anything; the fields follow its last bracket.
      const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ')
      return Number(fields[2]) === group ? Number(fields[21]) * PAGE : null
    }),
  )
  const own = held.filter((bytes) => bytes !== null)
  return { bytes: own.reduce((sum, bytes) => sum + bytes, 0), processes: own.length }
}
