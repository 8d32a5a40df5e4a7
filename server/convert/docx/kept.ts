import * as v from 'valibot'
import { templateContentSchema } from '#contract/template.ts'
import { blankSchema, referenceSchema } from '#contract/document.ts'
import type { TemplateContent } from '#core/document/template.ts'
import {
  OUTLINE_PROPERTY,
  PAGE_PROPERTY,
  REST_PROPERTY,
  type RestOfTemplate,
  ROLES_PROPERTY,
  SENDING_PROPERTY,
} from '#server/compose/docx/properties.ts'
import { attribute, type DocxPackage, element, elements } from './package.ts'

type Whole = Partial<Pick<TemplateContent, 'outline' | 'roles' | 'sending' | 'page'>>

/** What a document of ours said of itself. */
export interface KeptProperties extends Whole {
  readonly title?: string
  readonly rest: Partial<RestOfTemplate>
}

const entries = (
  templateContentSchema as unknown as v.ObjectSchema<Record<string, v.GenericSchema>, undefined>
).entries

/** What a document of ours keeps in its properties; each is taken only where it is sound. */
export async function keptProperties(pack: DocxPackage): Promise<KeptProperties> {
  const title = element(await pack.xml('docProps/core.xml'), 'title')?.textContent?.trim()
  const found: Record<string, unknown> = {}
  for (const property of elements(await pack.xml('docProps/custom.xml'), 'property')) {
    try {
      found[attribute(property, 'name') ?? ''] = JSON.parse(property.textContent ?? '')
    } catch {
      // Somebody else's property.
    }
  }
  const take = (of: Record<string, unknown>, name: string, key: string, schema: v.GenericSchema) => {
    const read = name in of ? v.safeParse(schema, of[name]) : null
    return read?.success && read.output !== undefined ? { [key]: read.output } : {}
  }
  const whole = (name: string, key: keyof Whole) => take(found, name, key, entries[key]!)
  const kept = found[REST_PROPERTY]
  const rest = typeof kept === 'object' && kept !== null ? (kept as Record<string, unknown>) : {}
  const part = (key: keyof RestOfTemplate, schema: v.GenericSchema) => take(rest, key, key, schema)
  return {
    ...(title ? { title } : {}),
    ...whole(OUTLINE_PROPERTY, 'outline'),
    ...whole(ROLES_PROPERTY, 'roles'),
    ...whole(SENDING_PROPERTY, 'sending'),
    ...whole(PAGE_PROPERTY, 'page'),
    rest: {
      ...part('language', entries['language']!),
      ...part('look', entries['look']!),
      ...part('initialsOnEveryPage', entries['initialsOnEveryPage']!),
      ...part('tickGroups', entries['tickGroups']!),
      ...part('conditions', v.array(v.pipe(v.string(), v.maxLength(10_000)))),
      ...part('blanks', v.array(blankSchema)),
      ...part('references', v.array(v.omit(referenceSchema, ['clause']))),
    },
  }
}
