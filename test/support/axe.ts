import { readFile } from 'node:fs/promises'
import { createRequire } from 'node:module'
import type { Page } from 'playwright-core'
import { still } from './browser.ts'

interface Violation {
  readonly id: string
  readonly nodes: readonly { readonly html: string }[]
}

// Rules of axe-core for WCAG 2.0, 2.1 and 2.2, levels A and AA: https://www.w3.org/TR/WCAG22/.
const TAGS = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']
const source = await readFile(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8')

/** What is wrong with a page as it stands; nothing where nothing is. */
export async function violations(page: Page): Promise<readonly string[]> {
  await still(page)
  await page.evaluate(source)
  const found = await page.evaluate(
    (tags) =>
      (globalThis as unknown as { axe: { run(options: object): Promise<{ violations: Violation[] }> } }).axe
        .run({ runOnly: { type: 'tag', values: tags } })
        .then((result) => result.violations),
    TAGS,
  )
  return found.map(({ id, nodes }) => `${id}: ${nodes[0]!.html.slice(0, 160)} (${nodes.length})`)
}
