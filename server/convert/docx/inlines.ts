import type { Element } from '@xmldom/xmldom'
import type { Inline, MarkName } from '#core/document/tree.ts'
import { inlineText } from '#core/document/walk.ts'
import type { FieldType } from '#core/outline/field.ts'
import { meaningOf } from './fields.ts'
import type { Field, Instruction } from './fields.ts'
import { attribute, element, elements, isOn } from './package.ts'
import type { Remarks } from './remarks.ts'

/** What stands among the words of a paragraph but is not one of them. */
export interface Aside {
  readonly drawings: Element[]
  breaks: number
}

/** A field whose end has not come yet; `separated` once its result begins (ECMA-376 part 1, 17.16.18). */
interface OpenField {
  readonly instruction: (string | Field)[]
  readonly result: Inline[]
  separated: boolean
}

/** Reads the words of paragraphs. What their fields say of the data they show is kept beside them. */
export class InlineReader {
  /** Names of merge fields as the document writes them. */
  readonly labels = new Map<string, string>()
  /** Types that conditions speak of. */
  readonly hints = new Map<string, Set<FieldType>>()

  constructor(private readonly remarks: Remarks) {}

  /** The words of a paragraph, with fields read; drawings and page breaks go to `found`. */
  paragraph(paragraph: Element, found?: Aside): Inline[] {
    const top: Inline[] = []
    const fields: OpenField[] = []
    const put = (part: Inline) => {
      const field = fields.at(-1)
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
          case 'sdtContent':
          case 'sdt':
          case 'customXml':
            visit(child)
            break
          case 'oMath':
          case 'oMathPara':
            this.remarks.tell('left out', 'A formula')
            break
        }
      }
    }
    visit(paragraph)
    return top
  }

  private readRun(
    run: Element,
    put: (part: Inline) => void,
    fields: OpenField[],
    endField: (field: Field) => void,
    found: Aside | undefined,
  ): void {
    const properties = element(run, 'rPr')
    const on = (name: string) => isOn(element(properties, name))
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
    const text = (words: string) => put({ type: 'text', text: words, ...(marks.length ? { marks } : {}) })
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
        const [name = '', hint] = meaning.field.split(':')
        if (hint === 'number') this.hints.set(name, new Set(['number']))
        const phrase = (content: Instruction, condition: string | null): Inline[] => {
          const inner = content.flatMap((piece): readonly Inline[] =>
            typeof piece === 'string' ? [{ type: 'text', text: piece }] : this.fieldInlines(piece),
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
        if (meaning.name !== 'HYPERLINK')
          this.remarks.tell(
            'changed',
            `A field of the kind ${meaning.name}; the words it showed last are kept`,
          )
        return field.result
    }
  }
}
