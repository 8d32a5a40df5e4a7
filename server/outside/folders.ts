import { randomBytes } from 'node:crypto'
import { mkdir, realpath, rename, rm, writeFile } from 'node:fs/promises'
import { join, relative, resolve, sep } from 'node:path'
import type { Settings } from '#server/ground/settings.ts'
import { callOut } from './call-out.ts'

/** Where files are put: below the server's own folder, or over HTTP (WebDAV, RFC 4918). */
export interface Folder {
  readonly kind: 'local' | 'webdav'
  readonly address: string
  readonly userName: string
  readonly secret: string
}

/** Puts a file under a path of names into a folder; folders on the way are made. Throws with the reason in words. */
export async function putIntoFolder(
  settings: Pick<Settings, 'filedFolder' | 'inner'>,
  folder: Folder,
  path: readonly string[],
  bytes: Uint8Array,
): Promise<void> {
  if (folder.kind === 'local') return putLocally(settings.filedFolder, folder.address, path, bytes)
  const { request, url } = webdav(settings, folder)
  const first = await request('PUT', url(path), bytes)
  if (isDone(first)) return
  // 409: a folder on the way is not there (RFC 4918, 9.7.1).
  if (first !== 409 && first !== 404) throw new Error(refusalOf(first))
  for (let depth = 1; depth < path.length; depth++) {
    const made = await request('MKCOL', `${url(path.slice(0, depth))}/`)
    // 405: it is there already (9.3.1).
    if (!isDone(made) && made !== 405) throw new Error(`A folder could not be made: ${refusalOf(made)}`)
  }
  const second = await request('PUT', url(path), bytes)
  if (!isDone(second)) throw new Error(refusalOf(second))
}

/** Whether files can be put there: why not, in words; null: they can. */
export async function folderProblem(
  settings: Pick<Settings, 'filedFolder' | 'inner'>,
  folder: Folder,
): Promise<string | null> {
  const name = `brevan-test-${randomBytes(6).toString('hex')}.txt`
  try {
    await putIntoFolder(settings, folder, [name], Buffer.from('This file may be deleted.'))
    if (folder.kind === 'local') await rm(join(localFolder(settings.filedFolder, folder.address), name))
    else {
      const { request, url } = webdav(settings, folder)
      await request('DELETE', url([name]))
    }
    return null
  } catch (error) {
    return (error as Error).message
  }
}

const isDone = (status: number): boolean => status >= 200 && status < 300

const refusalOf = (status: number): string =>
  status === 401 || status === 403
    ? `It refuses the name and password (${status}).`
    : status === 507
      ? 'It has no room left (507).'
      : `It answered ${status}.`

/** A folder below the server's own: nothing in the address leads out of it. */
function localFolder(root: string, address: string): string {
  const whole = resolve(root, address)
  if (whole !== resolve(root) && !whole.startsWith(resolve(root) + sep))
    throw new Error('The folder lies outside the one that the server files to.')
  return whole
}

/**
 * The folder at the end of a path, made where it is not there, name by name: a symbolic link on the way that leads out of the
 * server's folder is not followed, and nothing is made behind it.
 */
async function madeBelow(root: string, folder: string, names: readonly string[]): Promise<string> {
  await mkdir(root, { recursive: true })
  const real = await realpath(root)
  let at = resolve(root)
  for (const name of [...relative(at, folder).split(sep).filter(Boolean), ...names]) {
    at = join(at, name)
    await mkdir(at).catch((error: NodeJS.ErrnoException) => {
      if (error.code !== 'EEXIST') throw error
    })
    const found = await realpath(at)
    if (found !== real && !found.startsWith(real + sep))
      throw new Error('The folder leads out of the one that the server files to.')
  }
  return at
}

/** Written beside it and moved into place, so that whoever watches the folder never sees half a file. */
async function putLocally(
  root: string,
  address: string,
  path: readonly string[],
  bytes: Uint8Array,
): Promise<void> {
  const into = await madeBelow(root, localFolder(root, address), path.slice(0, -1))
  const beside = join(into, `.${randomBytes(8).toString('hex')}`)
  try {
    await writeFile(beside, bytes)
    await rename(beside, join(into, path.at(-1)!))
  } catch (error) {
    await rm(beside, { force: true })
    throw error
  }
}

function webdav({ inner }: Pick<Settings, 'inner'>, { address, userName, secret }: Folder) {
  const base = address.replace(/\/$/, '')
  return {
    url: (path: readonly string[]) => [base, ...path.map(encodeURIComponent)].join('/'),
    /** The answer's status; throws where there is none. */
    request: async (method: 'PUT' | 'MKCOL' | 'DELETE', url: string, body?: Uint8Array): Promise<number> => {
      const called = await callOut({
        url,
        method,
        headers: {
          'user-agent': 'Brevan',
          ...(body ? { 'content-type': 'application/pdf' } : {}),
          ...(userName
            ? { authorization: `Basic ${Buffer.from(`${userName}:${secret}`).toString('base64')}` }
            : {}),
        },
        ...(body ? { body } : {}),
        inner,
      })
      if (!called.ok) throw new Error(called.why)
      return called.status
    },
  }
}
