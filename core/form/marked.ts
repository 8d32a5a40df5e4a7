import { ROLE_SHAPES, type SignerRole, type TemplateContent } from '../document/template.ts'
import type { Box, PagesTree, Placement } from '../document/tree.ts'
import { isText } from '../document/walk.ts'
import { guessedField } from '../outline/guess.ts'
import { BLANK_SIZES, emptyForm, type PageFile, placedBlank, placedField, styleFor } from './new-form.ts'
import type { FoundField } from './page-read.ts'

// A document says by its markers what stands where. Their letters are gone from the page, so what they mean is placed at once.

/** Whether a field was a marker in the text. */
export const isMarked = (found: FoundField): boolean => found.kind === 'value' || found.blank !== undefined

/** What a marker means, in its place. A blank keeps its own height, up from the marker's line. */
export function markedPlacement(id: string, found: FoundField): Placement {
  const { box, label, required, blank, options } = found
  if (!blank) return placedField(id, box, found.name, found.format ?? null)
  const { width, height } = BLANK_SIZES[blank.kind]
  const room: Box =
    blank.kind === 'tick'
      ? { x: box.x, y: box.y + box.height - height - 2, width, height }
      : { x: box.x, y: box.y + box.height - height, width: Math.max(width, Math.min(box.width, 260)), height }
  const { kind, role, prefill } = blank
  return placedBlank(
    id,
    room,
    {
      kind,
      role,
      label,
      required,
      ...(prefill ? { prefill } : {}),
      ...(kind === 'choice' ? { options: options ?? [], most: 1 } : {}),
    },
    { style: styleFor(room) },
  )
}

/** A role for a key that a marker names: its person is asked for until somebody says otherwise. */
const namedRole = (key: string, nth: number): SignerRole => ({
  key,
  label: `${key.slice(0, 1).toUpperCase()}${key.slice(1).replaceAll('_', ' ')}`,
  shape: ROLE_SHAPES[nth % ROLE_SHAPES.length]!,
  order: 1,
  fill: { rule: 'ask' },
})

/** The data and roles that markers name and a template does not have yet. */
export function withNamed(content: TemplateContent, found: readonly FoundField[]): TemplateContent {
  const marked = found.filter(isMarked)
  const fields = new Map(content.outline.map((field) => [field.name, field]))
  for (const { kind, name, label } of marked)
    if (kind === 'value' && !name.startsWith('signer.') && !fields.has(name))
      fields.set(name, guessedField(name, label))
  const roles = [...content.roles]
  for (const { blank } of marked)
    if (blank && !roles.some(({ key }) => key === blank.role)) roles.push(namedRole(blank.role, roles.length))
  return { ...content, outline: [...fields.values()], roles }
}

/** A template with what the markers of a file mean on its pages; nothing else of the file's fields is placed by itself. */
export function withMarked(
  content: TemplateContent,
  file: string,
  found: readonly FoundField[],
  newId: () => string,
): TemplateContent {
  const { document } = content
  const marked = found.filter(isMarked)
  if (isText(document) || marked.length === 0) return content
  const placed: PagesTree = {
    ...document,
    content: document.content.map((page) => ({
      ...page,
      content:
        page.attrs.file === file
          ? [
              ...page.content,
              ...marked
                .filter((each) => each.page === page.attrs.page)
                .map((each) => markedPlacement(newId(), each)),
            ]
          : page.content,
    })),
  }
  return { ...withNamed(content, found), document: placed }
}

/** A template that is the pages of files, with what the markers of each mean. */
export const formOfFiles = (
  title: string,
  language: string,
  files: readonly (PageFile & { readonly fields: readonly FoundField[] })[],
  newId: () => string,
): TemplateContent =>
  files.reduce(
    (content, { file, fields }) => withMarked(content, file, fields, newId),
    emptyForm(title, language, files, newId),
  )

/** Whether a placement is what a marker means: the same value, or the same blank of the same role. */
export function means(placement: Placement, found: FoundField): boolean {
  const [first] = placement.content
  if (first?.type === 'mergeField') return found.kind === 'value' && first.attrs.field === found.name
  return (
    first?.type === 'blank' &&
    found.blank !== undefined &&
    first.attrs.role === found.blank.role &&
    first.attrs.kind === found.blank.kind &&
    first.attrs.label === found.label
  )
}
