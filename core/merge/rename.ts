import { pathName } from '../expression/compile.ts'
import { parseExpression } from '../expression/parse.ts'
import { children, type Syntax } from '../expression/syntax.ts'
import { taxesList, totalsGroup } from './fields.ts'
import type { Field, Outline } from '../outline/field.ts'
import type { SignerRole, TemplateContent } from '../document/template.ts'

/** A template in which a field has another name. */
export interface Renamed {
  readonly content: TemplateContent
  /** Places that were changed, the outline's own entry not counted. */
  readonly places: number
}

/** Replaces a name in an expression wherever it stands as a path, or begins one; a faulty expression is left alone. */
export function renameInExpression(text: string, from: string, to: string): { text: string; places: number } {
  const parsed = parseExpression(text)
  if (!parsed.ok) return { text, places: 0 }
  const spans: { from: number; to: number }[] = []
  const visit = (node: Syntax): void => {
    const path = pathName(node)
    if (path === null) return children(node).forEach(visit)
    if (path === from || path.startsWith(`${from}.`))
      spans.push({ from: node.from, to: node.from + from.length })
  }
  visit(parsed.syntax)
  let renamed = text
  for (const span of spans.sort((a, b) => b.from - a.from))
    if (renamed.slice(span.from, span.to) === from)
      renamed = renamed.slice(0, span.from) + to + renamed.slice(span.to)
  return { text: renamed, places: spans.length }
}

/**
 * Renames a field (`buyer.name`), a whole list (`lots`) or a field of a list's items (`lots.price`) everywhere: merge
 * fields, conditions, computed values, patterns, roles, blanks.
 */
export function renameField(content: TemplateContent, from: string, to: string): Renamed {
  const renaming = new Renaming(content.outline, from, to)
  const { sending, page } = content
  const renamed: TemplateContent = {
    ...content,
    outline: content.outline.map((field) => renaming.field(field)),
    roles: content.roles.map((role) => renaming.role(role)),
    document: renaming.part(content.document) as TemplateContent['document'],
    sending: {
      ...sending,
      agreementName: renaming.pattern(sending.agreementName),
      fileName: renaming.pattern(sending.fileName),
      subject: renaming.pattern(sending.subject),
      message: renaming.pattern(sending.message),
      ...(sending.copies ? { copies: sending.copies.map((each) => renaming.pattern(each)) } : {}),
    },
    ...(page
      ? { page: { ...page, header: renaming.pattern(page.header), footer: renaming.pattern(page.footer) } }
      : {}),
  }
  return { content: renamed, places: renaming.places }
}

/** One renaming over all that names fields; counts the places it changes. */
class Renaming {
  places = 0
  /** The list whose items have the field, and the field's own names in them. */
  private readonly item: { readonly list: Field; readonly from: string; readonly to: string } | null
  private readonly names: readonly (readonly [from: string, to: string])[]

  constructor(
    outline: Outline,
    private readonly from: string,
    private readonly to: string,
  ) {
    const list = outline.find(({ name, type }) => type === 'list' && from.startsWith(`${name}.`))
    const start = (list?.name.length ?? 0) + 1
    this.item = list ? { list, from: from.slice(start), to: to.slice(start) } : null
    // A list's totals and taxes are called after it.
    const isList = outline.find(({ name }) => name === from)?.type === 'list'
    this.names = [
      [from, to],
      ...(isList
        ? [[totalsGroup(from), totalsGroup(to)] as const, [taxesList(from), taxesList(to)] as const]
        : []),
    ]
  }

  name<N extends string | null | undefined>(value: N): N {
    const found = this.names.find(([own]) => value === own || value?.startsWith(`${own}.`))
    if (typeof value !== 'string' || !found) return value
    this.places++
    return (found[1] + value.slice(found[0].length)) as N
  }

  /** `insideList`: of an item's field, which names the others of its item without the list. */
  expression<E extends string | null | undefined>(value: E, insideList = false): E {
    if (typeof value !== 'string') return value
    let text = this.names.reduce<string>((said, [own, next]) => this.replaced(said, own, next), value)
    const { item } = this
    if (item) {
      text = this.replaced(text, `item.${item.from}`, `item.${item.to}`)
      if (insideList) text = this.replaced(text, item.from, item.to)
    }
    return text as E
  }

  pattern<P extends string | undefined>(value: P): P {
    return value === undefined
      ? value
      : (value.replace(/\{\{([^{}]*)\}\}/g, (whole, inner: string) =>
          inner.trim() ? whole.replace(inner.trim(), () => this.name(inner.trim())) : whole,
        ) as P)
  }

  /** A part of a document, with all below it. */
  part(part: unknown): unknown {
    if (Array.isArray(part)) return part.map((each) => this.part(each))
    if (typeof part !== 'object' || part === null) return part
    const copy: Record<string, unknown> = { ...part }
    const attrs = copy['attrs'] as Record<string, unknown> | undefined
    if (attrs) {
      const changed = { ...attrs }
      if (copy['type'] === 'mergeField') changed['field'] = this.name(attrs['field'] as string)
      if ('condition' in attrs) changed['condition'] = this.expression(attrs['condition'] as string | null)
      if (attrs['repeat']) changed['repeat'] = this.name(attrs['repeat'] as string)
      if (attrs['prefill']) changed['prefill'] = this.name(attrs['prefill'] as string)
      copy['attrs'] = changed
    }
    if (Array.isArray(copy['content'])) copy['content'] = copy['content'].map((each) => this.part(each))
    return copy
  }

  field(field: Field): Field {
    const { item, from, to } = this
    const isList = field === item?.list
    const items = field.items?.map((each) => ({
      ...each,
      ...(isList && each.name === item.from ? { name: item.to } : {}),
      ...(each.computed === undefined ? {} : { computed: this.expression(each.computed, isList) }),
    }))
    const rule = field.lineItems
    const inItems = <N extends string | null>(value: N): N => (isList ? this.itemName(value) : value)
    return {
      ...field,
      ...(field.name === from ? { name: to } : {}),
      ...(field.computed === undefined ? {} : { computed: this.expression(field.computed) }),
      ...(items ? { items } : {}),
      ...(rule
        ? {
            lineItems: {
              ...rule,
              price: inItems(rule.price),
              quantity: inItems(rule.quantity),
              discount: inItems(rule.discount),
              taxRate: inItems(rule.taxRate),
              overallDiscount: this.name(rule.overallDiscount),
            },
          }
        : {}),
    }
  }

  role(role: SignerRole): SignerRole {
    const { fill } = role
    const condition = this.expression(role.condition)
    if (fill.rule !== 'record') return { ...role, condition }
    const ofRole = <N extends string | null | undefined>(value: N): N =>
      !fill.list ? this.name(value) : fill.list === this.item?.list.name ? this.itemName(value) : value
    return {
      ...role,
      condition,
      fill: {
        ...fill,
        list: this.name(fill.list),
        name: ofRole(fill.name),
        email: ofRole(fill.email),
        title: ofRole(fill.title),
        company: ofRole(fill.company),
        phone: ofRole(fill.phone),
      },
    }
  }

  /** A name within an item. */
  private itemName<N extends string | null | undefined>(value: N): N {
    if (!this.item || value !== this.item.from) return value
    this.places++
    return this.item.to as N
  }

  private replaced(text: string, from: string, to: string): string {
    const found = renameInExpression(text, from, to)
    this.places += found.places
    return found.text
  }
}
