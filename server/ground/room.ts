import { existsSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

/** The folder of the checkout: the nearest one above this file with a package.json, from source and from dist/ alike. */
export const root: string = (() => {
  let folder = dirname(fileURLToPath(import.meta.url))
  while (!existsSync(join(folder, 'package.json'))) folder = dirname(folder)
  return folder
})()

/** Full path of a file of the checkout, named from its root. */
export const roomFile = (path: string): string => join(root, path)
