import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { getDocument, PermissionFlag } from 'pdfjs-dist/legacy/build/pdf.mjs'

// Files whose content is encrypted (ISO 32000-1, 7.6). Many open without a password and say what their readers may do with them.
// What they forbid is respected; where they allow to be changed or filled in, qpdf takes the encryption off.

/** A file that may be read, or why it may not. */
export type Unlocked =
  { readonly ok: true; readonly bytes: Uint8Array } | { readonly ok: false; readonly problem: string }

const PASSWORD = 'The file needs a password to be opened. Open it with its password, and save it without one.'
const FORBIDDEN =
  'The file is protected: it may be read, but its maker allows nobody to change it or fill it in. Ask for one without protection.'
const NO_PROGRAM =
  'The file is protected, though it may be changed. No program that takes the protection off is installed here (apt-get install qpdf).'

/** Permissions (ISO 32000-1, table 22) of which one is enough to put values on the pages. */
const ENOUGH = [PermissionFlag.MODIFY_CONTENTS, PermissionFlag.FILL_INTERACTIVE_FORMS]
const SECONDS = 30
const MOST_BYTES = 400_000_000

/** An encrypted file without its encryption, where it opens without a password and its maker allows to change it. */
export async function unlocked(bytes: Uint8Array): Promise<Unlocked> {
  const refused = await refusal(bytes)
  if (refused) return { ok: false, problem: refused }
  const folder = mkdtempSync(join(tmpdir(), 'brevan-unlock-'))
  try {
    writeFileSync(join(folder, 'in.pdf'), bytes, { mode: 0o600 })
    const made = execFileSync('qpdf', ['--decrypt', '--warning-exit-0', join(folder, 'in.pdf'), '-'], {
      timeout: SECONDS * 1000,
      maxBuffer: MOST_BYTES,
      stdio: ['ignore', 'pipe', 'ignore'],
    })
    return { ok: true, bytes: Uint8Array.from(made) }
  } catch (error) {
    const isMissing = (error as NodeJS.ErrnoException).code === 'ENOENT'
    return {
      ok: false,
      problem: isMissing ? NO_PROGRAM : 'The file is damaged: its protection cannot be read.',
    }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

async function refusal(bytes: Uint8Array): Promise<string | null> {
  try {
    const document = await getDocument({ data: Uint8Array.from(bytes), isEvalSupported: false, verbosity: 0 })
      .promise
    const allowed = await document.getPermissions()
    await document.loadingTask.destroy()
    // Null: opened as its owner, who may do all.
    return allowed === null || ENOUGH.some((flag) => allowed.includes(flag)) ? null : FORBIDDEN
  } catch (error) {
    if ((error as Error).name === 'PasswordException') return PASSWORD
    throw error
  }
}
