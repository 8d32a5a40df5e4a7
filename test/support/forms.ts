import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { TemplateContent } from '#core/document/template.ts'
import type { PagesTree } from '#core/document/tree.ts'
import { isText } from '#core/document/walk.ts'
import type { Client } from './client.ts'

/** The pages of a template that has to be a form. */
export function pagesIn({ document }: TemplateContent): PagesTree {
  if (isText(document)) throw new Error('A text stands where a form was meant.')
  return document
}

export const bringIn = (client: Client, name: string, body: Uint8Array): Promise<Answer<Api['bringIn']>> =>
  client.call('bringIn', { query: { name }, body })

/** A new form of these bytes, with what is set about it; answers its id. */
export async function formOf(
  client: Client,
  name: string,
  body: Uint8Array,
  more: (content: TemplateContent) => TemplateContent,
): Promise<string> {
  const { file } = await bringIn(client, `${name}.pdf`, body)
  const { id } = await client.call('startForm', { body: { title: name, shelf: null, files: [file] } })
  const { draft, draftVersion } = await client.call('template', { params: { id } })
  await client.call('saveDraft', { params: { id }, body: { version: draftVersion, content: more(draft) } })
  return id
}

/** A word of a page as another reader of PDF files finds it: points from the top left corner. */
export interface OtherWord {
  readonly text: string
  readonly page: number
  readonly x: number
  readonly y: number
  readonly right: number
  readonly bottom: number
}

/** The words of a PDF as `pdftotext -bbox` (poppler) places them. */
export function wordsByPoppler(pdf: Uint8Array): readonly OtherWord[] {
  const told = withFile(pdf, (file) =>
    execFileSync('pdftotext', ['-bbox', file, '-'], { maxBuffer: 1e8 }).toString(),
  )
  let page = 0
  return told.split('\n').flatMap((line): OtherWord[] => {
    if (line.includes('<page ')) page++
    const found =
      /<word xMin="([\d.-]+)" yMin="([\d.-]+)" xMax="([\d.-]+)" yMax="([\d.-]+)">(.*)<\/word>/.exec(line)
    if (!found) return []
    const [x, y, right, bottom] = found.slice(1, 5).map(Number) as [number, number, number, number]
    const text = found[5]!
      .replaceAll('&lt;', '<')
      .replaceAll('&gt;', '>')
      .replaceAll('&quot;', '"')
      .replaceAll('&amp;', '&')
    return [{ text, page, x, y, right, bottom }]
  })
}

/** What `qpdf --check` says of a PDF; it throws where that is not clean. */
export const checkedByQpdf = (pdf: Uint8Array): string =>
  withFile(pdf, (file) => execFileSync('qpdf', ['--check', file]).toString())

function withFile<T>(bytes: Uint8Array, act: (file: string) => T): T {
  const folder = mkdtempSync(join(tmpdir(), 'brevan-test-'))
  try {
    const file = join(folder, 'file.pdf')
    writeFileSync(file, bytes)
    return act(file)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
