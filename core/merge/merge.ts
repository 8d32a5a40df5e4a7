import { plainPage, plainStyle, type SignerRole } from '../document/template.ts'
import type {
  BlankPlace,
  Block,
  Clause,
  FormPage,
  Inline,
  ListItem,
  MergeField,
  Placement,
  SignatureBlock,
  Table,
  TableRow,
} from '../document/tree.ts'
import { clauseTitle, isText, titleOfClause } from '../document/walk.ts'
import { RECORD_STEPS, withBudget } from '../expression/values/budget.ts'
import { explain, withValues } from '../expression/explain.ts'
import { compileExpression } from '../expression/compile.ts'
import type { Context, Value } from '../expression/values/value.ts'
import type { Field, RecordData } from '../outline/field.ts'
import { completeRecord, toValue } from '../outline/record.ts'
import { defaultFormat, formatValue } from '../text/format.ts'
import { decide, wordingKey } from '../wording/wording.ts'
import {
  type BlankRules,
  type FinishedBlock,
  type FinishedDocument,
  type FinishedPage,
  type FinishedPages,
  type FinishedPlace,
  type FinishedRow,
  type FinishedText,
  type Merged,
  type MergeProblem,
  type Origin,
  type Person,
  type SignaturePlace,
  type Stretch,
  stretchStyle,
} from './finished.ts'
import { evenRows } from './even-table.ts'
import { inWordsOf, shown } from './fill.ts'
import { clauseNumber, fullNumber } from './numbering.ts'
import { peopleOfRecord, roleKey } from './people.ts'
import type { ReadyTemplate } from './prepare.ts'
import { droppedReference, mayStayEmpty, missingValue, undecided } from './problems.ts'
import { runningLine } from './running.ts'
import { type Scope, StandingRecord } from './standing.ts'
import { columnWidths, common, finishedBlank, fixedRun, fixedRuns, itemNames } from './merge-parts.ts'

/** What a merge is to tell besides the document. */
export interface MergeOptions {
  /** Tell of every value how it was worked out and why its clause stands. Proofs want this; making a thousand does not. */
  readonly trace: boolean
}

/** Merges one record. `number` is the agreement's number once it has one. */
export function merge(
  template: ReadyTemplate,
  data: RecordData,
  number: string | null,
  options: MergeOptions = { trace: false },
): Merged {
  return withBudget(RECORD_STEPS, () => {
    const { data: complete, context } = completeRecord(template.outline, data)
    return new Merging(template, complete, context, options).run(number)
  })
}

type PendingReference = {
  -readonly [K in keyof (Stretch & { kind: 'reference' })]: (Stretch & { kind: 'reference' })[K]
}

class Merging {
  private readonly origins: Origin[] = []
  private readonly problems: MergeProblem[] = []
  private readonly people: readonly Person[]
  private readonly record: StandingRecord
  private clause: Clause | null = null
  private passage = ''
  private readonly numbers = new Map<string, { readonly number: string; readonly anchor: string }>()
  private readonly references: { run: PendingReference; clause: string; form: string; passage: string }[] = []
  /** Values of the record as they are shown, by name and format. */
  private readonly texts = new Map<string, Map<string | null, string | null>>()
  private readonly becauses = new Map<string, string | null>()

  constructor(
    private readonly template: ReadyTemplate,
    data: RecordData,
    context: Context,
    private readonly options: MergeOptions,
  ) {
    this.record = new StandingRecord(template, data, context)
    const found = peopleOfRecord(template, context)
    this.people = found.people
    this.problems.push(...found.problems)
  }

  run(number: string | null): Merged {
    const { document: body } = this.template.content
    const document = isText(body) ? this.text(body.content, number) : this.pages(body.content)
    const decisions = decide(this.template, this.record.top.context)
    this.problems.push(...undecided(this.template, decisions))
    return {
      document,
      origins: this.origins,
      people: this.people,
      problems: this.problems,
      wording: wordingKey(decisions),
    }
  }

  private text(content: readonly Block[], number: string | null): FinishedText {
    const blocks = this.blocks(content, this.record.top, [])
    this.resolveReferences()
    const { title, language, page = plainPage } = this.template.content
    const value = (name: string) =>
      name === 'number' ? number : name === 'title' ? title : shown(this.template, this.record.data, name)
    return {
      body: 'text',
      title,
      language,
      paper: page.paper,
      head: runningLine(page.header, value),
      foot: runningLine(page.footer, value),
      blocks,
      initials: this.initials(),
    }
  }

  private pages(content: readonly FormPage[]): FinishedPages {
    const { title, language } = this.template.content
    const pages: FinishedPage[] = []
    this.record.standing(content, this.record.top, ({ attrs, content: placed }, scope) => {
      const places: FinishedPlace[] = []
      this.record.standing<Placement>(placed, scope, (part, inner) => {
        this.passage = part.attrs.id
        const { id, x, y, width, height, style = plainStyle, ticks } = part.attrs
        const runs = this.runs(part.content, inner)
        if (runs.length) places.push({ source: id, x, y, width, height, style, ticks, runs })
      })
      pages.push({ file: attrs.file, page: attrs.page, turn: attrs.turn, places })
    })
    if (pages.length === 0)
      this.problems.push({ field: null, block: null, message: 'None of the pages stands for this record.' })
    return { body: 'pages', title, language, pages, initials: this.initials() }
  }

  private initials(): FinishedDocument['initials'] {
    const { initialsOnEveryPage } = this.template.content
    return this.people
      .filter(({ role }) => initialsOnEveryPage.includes(roleKey(role)))
      .sort((a, b) => a.order - b.order)
      .map(({ role, label }) => ({ role, label, shape: this.role(role).shape }))
  }

  private role(key: string): SignerRole {
    return this.template.content.roles.find((role) => role.key === roleKey(key))!
  }

  private partiesOf(role: string): readonly Person[] {
    return this.people.filter((person) => roleKey(person.role) === role)
  }

  /** `above` is the number of the clause around: [2, 1] inside 2.1. */
  private blocks(blocks: readonly Block[], scope: Scope, above: readonly number[]): FinishedBlock[] {
    const finished: FinishedBlock[] = []
    let count = 0
    this.record.standing(blocks, scope, (block, inner, item) => {
      this.passage = block.attrs.id
      if (block.type === 'clause') finished.push(this.clauseBlock(block, inner, [...above, ++count], item))
      else this.block(block, inner, above, finished)
    })
    return finished
  }

  private clauseBlock(
    clause: Clause,
    scope: Scope,
    place: readonly number[],
    item: number | null,
  ): FinishedBlock {
    const { id } = clause.attrs
    const anchor = item === null ? id : `${id}.${item + 1}`
    if (!this.numbers.has(id)) this.numbers.set(id, { number: fullNumber(place), anchor })
    const around = this.clause
    this.clause = clause
    const blocks = this.blocks(clause.content, scope, place)
    this.clause = around
    return {
      kind: 'clause',
      id: anchor,
      number: clauseNumber(place),
      depth: place.length,
      blocks,
      ...common(clause),
    }
  }

  private block(
    block: Exclude<Block, Clause>,
    scope: Scope,
    above: readonly number[],
    into: FinishedBlock[],
  ): void {
    switch (block.type) {
      case 'heading': {
        const runs = this.runs(block.content, scope)
        into.push({ kind: 'heading', level: block.attrs.level, runs, ...common(block) })
        return
      }
      case 'paragraph':
        into.push({ kind: 'paragraph', runs: this.runs(block.content, scope), ...common(block) })
        return
      case 'bulletList':
      case 'orderedList': {
        const items: FinishedBlock[][] = []
        this.record.standing<ListItem>(block.content, scope, (part, inner) =>
          items.push(this.blocks(part.content, inner, above)),
        )
        if (items.length)
          into.push({ kind: 'list', ordered: block.type === 'orderedList', items, ...common(block) })
        return
      }
      case 'table':
        into.push(this.table(block, scope, above))
        return
      case 'image': {
        const { file, alt, width, align } = block.attrs
        into.push({ kind: 'image', file, alt, width, align: align ?? 'left', ...common(block) })
        return
      }
      case 'pageBreak':
        into.push({ kind: 'page break', ...common(block) })
        return
      case 'signatureBlock':
        into.push({ kind: 'signatures', parties: this.signaturePlaces(block), ...common(block) })
    }
  }

  private table(table: Table, scope: Scope, above: readonly number[]): FinishedBlock {
    const rows: FinishedRow[] = []
    this.record.standing<TableRow>(table.content, scope, (part, inner) => {
      const cells = part.content.map((cell) => ({
        blocks: this.blocks(cell.content, inner, above),
        colspan: cell.attrs.colspan,
        rowspan: cell.attrs.rowspan,
        align: cell.attrs.align ?? ('left' as const),
        head: cell.type === 'tableHeader',
      }))
      rows.push({ cells, head: cells.length > 0 && cells.every(({ head }) => head) })
    })
    const even = evenRows(rows)
    return { kind: 'table', widths: columnWidths(table, even.columns), rows: even.rows, ...common(table) }
  }

  private signaturePlaces(block: SignatureBlock): SignaturePlace[] {
    return block.attrs.roles.flatMap((key) =>
      this.partiesOf(key).map((person) => {
        const role = this.role(key)
        const blank = (kind: 'signature' | 'date', label: string) =>
          finishedBlank(role, person, {
            id: `${block.attrs.id}.${person.role}.${kind}`,
            kind,
            label,
            required: true,
            rules: {},
          })
        return {
          role: person.role,
          label: person.label,
          name: person.name,
          title: person.title,
          signature: blank('signature', 'Signature'),
          date: blank('date', 'Date signed'),
        }
      }),
    )
  }

  private runs(content: readonly Inline[] | undefined, scope: Scope): readonly Stretch[] {
    if (!content) return []
    const fixed = fixedRuns(content)
    if (fixed) return fixed
    const runs: Stretch[] = []
    this.record.standing<Inline>(content, scope, (part, inner) => {
      switch (part.type) {
        case 'hardBreak':
        case 'text':
          runs.push(fixedRun(part))
          return
        case 'phrase':
          runs.push(...this.runs(part.content, inner))
          return
        case 'blank':
          runs.push(...this.blank(part, inner))
          return
        case 'reference': {
          const { clause, form, fallback } = part.attrs
          const run: PendingReference = {
            kind: 'reference',
            text: fallback ?? '',
            target: null,
            ...stretchStyle(part.marks),
          }
          this.references.push({ run, clause, form, passage: this.passage })
          runs.push(run)
          return
        }
        case 'mergeField':
          runs.push({ kind: 'text', ...stretchStyle(part.marks), ...this.merged(part, inner) })
      }
    })
    return runs
  }

  /** Numbers are known once every clause is placed; a reference may stand before the clause it names. */
  private resolveReferences(): void {
    const { document } = this.template.content
    for (const { run, clause, form, passage } of this.references) {
      const found = this.numbers.get(clause)
      if (found) {
        const title = form === 'number and title' ? titleOfClause(document, clause) : ''
        run.text = `${found.number}${title && ` (${title})`}`
        run.target = found.anchor
      } else if (run.text === '') {
        run.text = '[reference]'
        this.problems.push(droppedReference(document, clause, passage))
      }
    }
  }

  private valueText(name: string, format: string | null, scope: Scope) {
    const found = this.record.valueOf(name, scope)
    if (!found || found.value === undefined) return { found, text: null }
    const known = found.item === null ? this.texts.get(name)?.get(format) : undefined
    if (known !== undefined) return { found, text: known }
    const value = toValue(found.field, found.value)
    const text = formatValue(found.field, value, format, this.template.content.language)
    if (found.item === null) {
      const formats = this.texts.get(name) ?? new Map<string | null, string | null>()
      this.texts.set(name, formats.set(format, text))
    }
    return { found, text }
  }

  private merged(part: MergeField, scope: Scope): { text: string; origin: number; gap: boolean } {
    const { field: name, format } = part.attrs
    const { found, text } = this.valueText(name, format, scope)
    const label = found?.field.label ?? name
    const origin = this.origin(name, format, found?.field, found?.item ?? null, scope)
    if (text === null && found && mayStayEmpty(found.field, found.item))
      return { text: '', origin, gap: false }
    if (text === null) this.problems.push(missingValue(name, this.passage, label))
    return { text: text ?? `[${label}]`, origin, gap: text === null }
  }

  private origin(
    name: string,
    format: string | null,
    field: Field | undefined,
    item: number | null,
    scope: Scope,
  ): number {
    const formula = field?.computed ?? null
    const condition = this.clause?.attrs.condition ?? null
    return (
      this.origins.push({
        field: name,
        label: field?.label ?? name,
        format: format ?? (field ? defaultFormat(field) : ''),
        formula,
        worked: formula !== null && this.options.trace ? this.worked(formula, item, scope) : null,
        clause: this.clause && clauseTitle(this.clause),
        condition,
        because: condition !== null && this.options.trace ? this.because(this.clause!, scope.context) : null,
        item: item === null ? null : item + 1,
        passage: this.passage,
      }) - 1
    )
  }

  private worked(formula: string, item: number | null, scope: Scope): string | null {
    const compiled = compileExpression(formula)
    if (!compiled.ok) return null
    const around =
      item === null ? scope.context : new Map<string, Value>([...scope.context, ...itemNames(scope.context)])
    return withValues(compiled.expression.syntax, formula, around, inWordsOf(this.template))
  }

  private because(clause: Clause, context: Context): string | null {
    const known = this.becauses.get(clause.attrs.id)
    if (known !== undefined) return known
    const expression = this.template.conditions.get(clause.attrs.id)
    const told = expression
      ? explain(expression.syntax, expression.text, context, inWordsOf(this.template))
      : null
    this.becauses.set(clause.attrs.id, told)
    return told
  }

  private blank(part: BlankPlace, scope: Scope): Stretch[] {
    const { attrs } = part
    if (
      this.template.conditions.has(attrs.id) &&
      this.template.conditions.get(attrs.id)!.evaluate(scope.context) !== true
    )
      return []
    const known = attrs.prefill ? this.valueText(attrs.prefill, null, scope) : null
    return this.partiesOf(attrs.role).flatMap((person): Stretch[] => {
      const role = this.role(attrs.role)
      const own = { name: person.name, title: person.title, company: person.company }
      const preset = known?.text ?? (attrs.kind in own ? own[attrs.kind as keyof typeof own] : '')
      if (preset && attrs.locked && attrs.prefill)
        return [
          {
            kind: 'text',
            text: preset,
            ...stretchStyle(undefined),
            origin: this.origin(attrs.prefill, null, known?.found?.field, known?.found?.item ?? null, scope),
            gap: false,
          },
        ]
      const suffix = [...scope.items.values()].map(({ index }) => `.${index + 1}`).join('')
      const id = `${attrs.id}${suffix}${person.role === attrs.role ? '' : person.role.slice(attrs.role.length)}`
      return [
        {
          kind: 'blank',
          blank: finishedBlank(role, person, { ...attrs, id, rules: this.rules(part, preset) }),
        },
      ]
    })
  }

  private rules({ attrs }: BlankPlace, preset: string): BlankRules {
    const group = this.template.content.tickGroups?.find(({ name }) => name === attrs.group)
    return {
      ...(preset ? { preset } : {}),
      ...(attrs.kind === 'choice'
        ? {
            options: attrs.options ?? [],
            least: attrs.least ?? (attrs.required ? 1 : 0),
            most: attrs.most ?? 1,
          }
        : {}),
      ...(attrs.check ? { check: attrs.check } : {}),
      ...(attrs.message ? { message: attrs.message } : {}),
      ...(group ? { group } : {}),
    }
  }
}
