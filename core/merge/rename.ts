import { pathName } from '../expression/compile.ts'
import { parseExpression } from '../expression/parse.ts'
import { children, type Syntax } from '../expression/syntax.ts'
import { taxesList, totalsGroup } from './fields.ts'
import type { Field } from '../outline/field.ts'
import type { TemplateContent } from '../document/template.ts'

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
  let places = 0
  const list = content.outline.find(({ name, type }) => type === 'list' && from.startsWith(`${name}.`))
  const item = list ? { from: from.slice(list.name.length + 1), to: to.slice(list.name.length + 1) } : null
  // A list's totals and taxes are called after it.
  const follow =
    content.outline.find(({ name: own }) => own === from)?.type === 'list'
      ? [[totalsGroup(from), totalsGroup(to)] as const, [taxesList(from), taxesList(to)] as const]
      : []
  const names = [[from, to] as const, ...follow]
  const name = <N extends string | null | undefined>(value: N): N => {
    const found = names.find(([own]) => value === own || value?.startsWith(`${own}.`))
    if (typeof value !== 'string' || !found) return value
    places++
    return (found[1] + value.slice(found[0].length)) as N
  }
  const expression = <E extends string | null | undefined>(value: E, insideList = false): E => {
    if (typeof value !== 'string') return value
    let text: string = value
    for (const [own, next] of names) {
      const found = renameInExpression(text, own, next)
      text = found.text
      places += found.places
    }
    if (!item) return text as E
    const ofItem = renameInExpression(text, `item.${item.from}`, `item.${item.to}`)
    const bare = insideList ? renameInExpression(ofItem.text, item.from, item.to) : ofItem
    places += ofItem.places + (insideList ? bare.places : 0)
    return bare.text as E
  }
  const pattern = <P extends string | undefined>(value: P): P =>
    value === undefined
      ? value
      : (value.replace(/\{\{([^{}]*)\}\}/g, (whole, inner: string) =>
          inner.trim() ? whole.replace(inner.trim(), () => name(inner.trim())) : whole,
        ) as P)

  const visit = (part: unknown): unknown => {
    if (Array.isArray(part)) return part.map(visit)
    if (typeof part !== 'object' || part === null) return part
    const copy: Record<string, unknown> = { ...part }
    const attrs = copy['attrs'] as Record<string, unknown> | undefined
    if (attrs) {
      const changed = { ...attrs }
      if (copy['type'] === 'mergeField') changed['field'] = name(attrs['field'] as string)
      if ('condition' in attrs) changed['condition'] = expression(attrs['condition'] as string | null)
      if (attrs['repeat']) changed['repeat'] = name(attrs['repeat'] as string)
      if (attrs['prefill']) changed['prefill'] = name(attrs['prefill'] as string)
      copy['attrs'] = changed
    }
    if (Array.isArray(copy['content'])) copy['content'] = copy['content'].map(visit)
    return copy
  }

  const own = (field: Field): Field => {
    const isList = field === list
    const items = field.items?.map((each) => ({
      ...each,
      ...(isList && each.name === item!.from ? { name: item!.to } : {}),
      ...(each.computed === undefined ? {} : { computed: expression(each.computed, isList) }),
    }))
    const inItems = (value: string | null) => {
      if (!isList || value !== item!.from) return value
      places++
      return item!.to
    }
    const rule = field.lineItems
    return {
      ...field,
      ...(field.name === from ? { name: to } : {}),
      ...(field.computed === undefined ? {} : { computed: expression(field.computed) }),
      ...(items ? { items } : {}),
      ...(rule
        ? {
            lineItems: {
              ...rule,
              price: inItems(rule.price)!,
              quantity: inItems(rule.quantity),
              discount: inItems(rule.discount),
              taxRate: inItems(rule.taxRate),
              overallDiscount: name(rule.overallDiscount),
            },
          }
        : {}),
    }
  }

  const { sending, page } = content
  const renamed: TemplateContent = {
    ...content,
    outline: content.outline.map(own),
    roles: content.roles.map((role) => {
      const { fill } = role
      if (fill.rule !== 'record') return { ...role, condition: expression(role.condition) }
      const ofRole = <N extends string | null | undefined>(value: N): N => {
        if (!fill.list) return name(value)
        if (!item || fill.list !== list?.name || value !== item.from) return value
        places++
        return item.to as N
      }
      return {
        ...role,
        condition: expression(role.condition),
        fill: {
          ...fill,
          list: name(fill.list),
          name: ofRole(fill.name),
          email: ofRole(fill.email),
          title: ofRole(fill.title),
          company: ofRole(fill.company),
          phone: ofRole(fill.phone),
        },
      }
    }),
    document: visit(content.document) as TemplateContent['document'],
    sending: {
      ...sending,
      agreementName: pattern(sending.agreementName),
      fileName: pattern(sending.fileName),
      subject: pattern(sending.subject),
      message: pattern(sending.message),
      ...(sending.copies ? { copies: sending.copies.map((each) => pattern(each)) } : {}),
    },
    ...(page ? { page: { ...page, header: pattern(page.header), footer: pattern(page.footer) } } : {}),
  }
  return { content: renamed, places }
}
