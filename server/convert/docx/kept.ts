import * as v from 'valibot'
import { templateContentSchema } from '#contract/template.ts'
import type { TemplateContent } from '#core/document/template.ts'
import {
  OUTLINE_PROPERTY,
  PAGE_PROPERTY,
  ROLES_PROPERTY,
  SENDING_PROPERTY,
} from '#server/compose/docx/properties.ts'
import { attribute, element, elements } from './package.ts'
import type { DocxPackage } from './package.ts'

/** What a document of ours keeps in its properties; each is taken only where it is sound. */
export async function keptProperties(
  pack: DocxPackage,
): Promise<Partial<Pick<TemplateContent, 'outline' | 'roles' | 'sending' | 'page'>> & { title?: string }> {
  const title = element(await pack.xml('docProps/core.xml'), 'title')?.textContent?.trim()
  const found: Record<string, unknown> = {}
  for (const property of elements(await pack.xml('docProps/custom.xml'), 'property')) {
    try {
      found[attribute(property, 'name') ?? ''] = JSON.parse(property.textContent ?? '')
    } catch {
      // Somebody else's property.
    }
  }
  const entries = (
    templateContentSchema as unknown as v.ObjectSchema<Record<string, v.GenericSchema>, undefined>
  ).entries
  const take = (property: string, key: 'outline' | 'roles' | 'sending' | 'page') => {
    const read = property in found ? v.safeParse(entries[key]!, found[property]) : null
    return read?.success && read.output !== undefined ? { [key]: read.output } : {}
  }
  return {
    ...(title ? { title } : {}),
    ...take(OUTLINE_PROPERTY, 'outline'),
    ...take(ROLES_PROPERTY, 'roles'),
    ...take(SENDING_PROPERTY, 'sending'),
    ...take(PAGE_PROPERTY, 'page'),
  }
}
