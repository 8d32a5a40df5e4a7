import type { FieldType } from '#core/outline/field-kinds.ts'
import type { Element } from '@xmldom/xmldom'
import type { Inline, MarkName } from '#core/document/tree.ts'
import { inlineText } from '#core/document/walk.ts'
import { type Control, controlOf } from './controls.ts'
import { type Field, type Instruction, meaningOf } from './fields.ts'
import { type Styles, type Toggle, type Toggles, togglesOf } from './numbering.ts'
import { attribute, element, elements, isOn } from './package.ts'
import type { Remarks } from './remarks.ts'

/** What stands among the words of a paragraph but is not one of them. */
export interface Aside {
  readonly drawings: Element[]
  breaks: number
}

/** A field whose end has not come yet; `separated` once its result begins (ECMA-376 part 1, 17.16.18). */
export interface OpenField {
  readonly instruction: (string | Field)[]
  readonly result: Inline[]
  separated: boolean
  /** Whether its result is text like any other; told once its instruction is whole. */
  shows?: boolean
}

const signsOf = (plain: string, changed: string): ReadonlyMap<string, string> => {
  const to = [...changed]
  return new Map([...plain].map((sign, i) => [sign, to[i]!]))
}
const RAISED = signsOf('0123456789+-−()nab ', '⁰¹²³⁴⁵⁶⁷⁸⁹⁺⁻⁻⁽⁾ⁿªᵇ ')
const LOWERED = signsOf('0123456789+-−() ', '₀₁₂₃₄₅₆₇₈₉₊₋₋₍₎ ')

/** Whether a field is none of those that stand for something here: then what it shows is what is meant. */
const showsItself = (field: OpenField): boolean => {
  field.shows ??= meaningOf({ instruction: field.instruction, result: [] }).kind === 'unknown'
  return field.shows
}

/** Words with their line breaks. */
const lines = (text: string): readonly Inline[] =>
  text
    .split(/\n+/)
    .flatMap((line, i): readonly Inline[] => [
      ...(i > 0 ? [{ type: 'hardBreak' } as const] : []),
      ...(line ? [{ type: 'text', text: line } as const] : []),
    ])

/** Reads the words of paragraphs. What their fields say of the data they show is kept beside them. */
export class InlineReader {
  /** Names of merge fields as the document writes them. */
  readonly labels = new Map<string, string>()
  /** What content controls say of the fields they stand for. */
  readonly clues = new Map<string, Control['clues']>()
  /** Types that conditions speak of. */
  readonly hints = new Map<string, Set<FieldType>>()

  /** Styles of letters and paragraphs. */
  styles: Styles = new Map()
  /** What the style of the paragraph that is read says of its letters. */
  private around: Toggles = {}

  constructor(private readonly remarks: Remarks) {}

  /**
   * The words of a paragraph, with fields read; drawings and page breaks go to `found`. `fields` are those that began in
   * paragraphs before it and have not ended: a field may go on over several.
   */
  paragraph(paragraph: Element, found?: Aside, fields: OpenField[] = []): Inline[] {
    if (paragraph.localName === 'p') {
      const style = this.styles.get(attribute(element(element(paragraph, 'pPr'), 'pStyle'), 'val') ?? '')
      // Headings look as headings do here; their own weight is not carried.
      this.around = style?.outline === null ? style.toggles : {}
    }
    const top: Inline[] = []
    const put = (part: Inline) => {
      // What a field of no meaning here shows is text like any other, paragraph by paragraph.
      let at = fields.length - 1
      while (at >= 0 && fields[at]!.separated && showsItself(fields[at]!)) at--
      const field = fields[at]
      if (!field) top.push(part)
      else if (field.separated) field.result.push(part)
      // Words in quotes inside an IF field's instruction count as instruction.
      else if (part.type === 'text') field.instruction.push(part.text)
    }
    const endField = (field: Field) => {
      const outer = fields.at(-1)
      if (outer && !outer.separated) outer.instruction.push(field)
      else this.fieldInlines(field).forEach(put)
    }
    const visit = (node: Element): void => {
      for (const child of elements(node)) {
        switch (child.localName) {
          case 'r':
            this.readRun(child, put, fields, endField, found)
            break
          case 'fldSimple':
            endField({ instruction: [attribute(child, 'instr') ?? ''], result: this.paragraph(child) })
            break
          case 'del':
          case 'moveFrom':
            this.remarks.tell(
              'changed',
              'Changes that were tracked; the text is taken as if they were accepted',
            )
            break
          case 'hyperlink':
          case 'ins':
          case 'moveTo':
          case 'smartTag':
          case 'bdo':
          case 'dir':
          case 'sdtContent':
          case 'customXml':
            visit(child)
            break
          case 'sdt': {
            const field = this.controlled(child)
            if (field) put(field)
            else visit(child)
            break
          }
          case 'oMath':
          case 'oMathPara':
            this.remarks.tell('left out', 'A formula')
            break
        }
      }
    }
    visit(paragraph)
    // Instructions go on in the next paragraph; between the two there is a line break.
    for (const field of fields) if (!field.separated) field.instruction.push('\n')
    return top
  }

  /** What fields show that never ended, so that no word of theirs is lost. */
  unended(fields: readonly OpenField[]): readonly Inline[] {
    if (fields.length) this.remarks.tell('changed', 'A field that has no end; the words it showed are kept')
    return fields.flatMap(({ result }) => result)
  }

  /** A merge field in the place of a content control that asks for a value. */
  controlled(sdt: Element): Inline | null {
    const control = controlOf(sdt)
    if (!control) return null
    this.labels.set(control.name, control.label)
    this.clues.set(control.name, { ...this.clues.get(control.name), ...control.clues })
    this.remarks.tell(
      'changed',
      'Content controls; they are merge fields of the same names now',
      control.label,
    )
    return { type: 'mergeField', attrs: { field: control.name, format: control.format } }
  }

  private readRun(
    run: Element,
    put: (part: Inline) => void,
    fields: OpenField[],
    endField: (field: Field) => void,
    found: Aside | undefined,
  ): void {
    const properties = element(run, 'rPr')
    const own = togglesOf(properties)
    const byStyle = this.styles.get(attribute(element(properties, 'rStyle'), 'val') ?? '')?.toggles ?? {}
    // What styles of letters and of the paragraph both turn on, is off (17.7.3); what stands at the words counts alone.
    const on = (name: Toggle) => own[name] ?? Boolean(byStyle[name]) !== Boolean(this.around[name])
    if (isOn(element(properties, 'rtl')))
      this.remarks.tell('changed', 'Words that run from right to left; they stand to the left here')
    if (on('smallCaps')) this.remarks.tell('changed', 'Small capitals; they are small letters now')
    if (on('vanish')) return this.remarks.tell('left out', 'Hidden text')
    if (on('strike') || on('dstrike')) this.remarks.tell('changed', 'Struck-out text; it is plain now')
    const marks = (
      [
        ['bold', on('b')],
        ['italic', on('i')],
        ['underline', on('u')],
      ] as [MarkName, boolean][]
    )
      .filter(([, has]) => has)
      .map(([type]) => ({ type }))
    const raised = attribute(element(properties, 'vertAlign'), 'val')
    const capital = on('caps')
    const text = (words: string) =>
      put({
        type: 'text',
        text: this.atHeight(capital ? words.toUpperCase() : words, raised),
        ...(marks.length ? { marks } : {}),
      })
    for (const child of elements(run)) {
      switch (child.localName) {
        case 't':
          if (child.textContent) text(child.textContent)
          break
        case 'instrText':
          fields.at(-1)?.instruction.push(child.textContent ?? '')
          break
        case 'tab':
          text('\t')
          break
        case 'ruby':
          this.remarks.tell('changed', 'Words with their reading above them; the reading is left out')
          for (const base of elements(element(child, 'rubyBase'), 'r'))
            this.readRun(base, put, fields, endField, found)
          break
        case 'noBreakHyphen':
          text('‑')
          break
        case 'br':
        case 'cr':
          if (attribute(child, 'type') === 'page' && found) found.breaks++
          else put({ type: 'hardBreak' })
          break
        case 'fldChar': {
          const type = attribute(child, 'fldCharType')
          if (type === 'begin') fields.push({ instruction: [], result: [], separated: false })
          else if (type === 'separate' && fields.length) fields.at(-1)!.separated = true
          else if (type === 'end' && fields.length) endField(fields.pop()!)
          break
        }
        case 'drawing':
        case 'pict':
        case 'object': {
          found?.drawings.push(child)
          break
        }
        case 'AlternateContent':
          this.remarks.tell('left out', 'A drawing or text box')
          break
        case 'footnoteReference':
        case 'endnoteReference':
          this.remarks.tell('left out', 'A footnote')
          break
        case 'sym':
          this.remarks.tell('left out', 'A sign of a symbol font')
          break
      }
    }
  }

  /** Raised or lowered figures as characters of their own, m² and H₂O; other words stay on the line, and that is told. */
  private atHeight(words: string, height: string | null): string {
    const signs = height === 'superscript' ? RAISED : height === 'subscript' ? LOWERED : null
    if (!signs || words.trim() === '') return words
    if ([...words].every((sign) => signs.has(sign)))
      return [...words].map((sign) => signs.get(sign)!).join('')
    this.remarks.tell('changed', 'Raised or lowered words; they stand on the line now', words.slice(0, 80))
    return words
  }

  /** What a field stands for in a template's text. */
  private fieldInlines(field: Field): readonly Inline[] {
    const meaning = meaningOf(field)
    const marks = field.result.find((part) => part.type === 'text')
    switch (meaning.kind) {
      case 'merge field':
        this.labels.set(meaning.name, meaning.label)
        return [
          {
            type: 'mergeField',
            attrs: { field: meaning.name, format: meaning.format },
            ...(marks?.type === 'text' && marks.marks ? { marks: marks.marks } : {}),
          },
        ]
      case 'phrases': {
        if (meaning.type) this.hints.set(meaning.field, new Set([meaning.type]))
        const phrase = (content: Instruction, condition: string | null): Inline[] => {
          const inner = content.flatMap((piece): readonly Inline[] =>
            typeof piece === 'string' ? lines(piece) : this.fieldInlines(piece),
          )
          return inner.length
            ? [
                {
                  type: 'phrase',
                  attrs: { id: '', condition, ...(condition === null ? { alternative: true } : {}) },
                  content: inner,
                },
              ]
            : []
        }
        const then = phrase(meaning.then, meaning.condition)
        // Without words for the case that holds, the other words stand on the opposite.
        return then.length
          ? [...then, ...phrase(meaning.otherwise, null)]
          : phrase(meaning.otherwise, `not(${meaning.condition})`)
      }
      case 'page':
        return [{ type: 'text', text: '{{page}}' }]
      case 'pages':
        return [{ type: 'text', text: '{{pages}}' }]
      case 'reference':
        return [
          {
            type: 'reference',
            attrs: {
              clause: `bookmark:${meaning.bookmark}`,
              form: 'number',
              fallback: inlineText(field.result) || null,
            },
          },
        ]
      case 'unknown':
        if (meaning.name === 'PAGEREF')
          this.remarks.tell(
            'changed',
            'The number of the page where something else stands; it is fixed text now',
          )
        else if (meaning.name !== 'HYPERLINK')
          this.remarks.tell(
            'changed',
            `A field of the kind ${meaning.name}; the words it showed last are kept`,
          )
        return field.result
    }
  }
}
