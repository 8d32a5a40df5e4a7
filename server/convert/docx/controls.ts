import type { FieldType } from '#core/outline/field-kinds.ts'
import type { Element } from '@xmldom/xmldom'
import type { Field } from '#core/outline/field.ts'
import { cut } from '#core/text/cut.ts'
import { fieldName } from './names.ts'
import { allBelow, attribute, element, elements, isOn } from './package.ts'

/** What a content control says of the data it is for (ECMA-376 part 1, 17.5.2): enough for a field of an outline. */
export interface Control {
  readonly name: string
  readonly label: string
  readonly clues: Partial<Pick<Field, 'type' | 'choices' | 'example' | 'help'>>
  /** The format of the merge field that stands in its place. */
  readonly format: string | null
}

const TYPES: Readonly<Record<string, FieldType>> = {
  text: 'text',
  date: 'date',
  dropDownList: 'choice',
  comboBox: 'choice',
  checkbox: 'yes/no',
}

/** A control that asks for a value and has a name; null for one that only holds what was written, or builds it. */
export function controlOf(sdt: Element): Control | null {
  const properties = element(sdt, 'sdtPr')
  const label = (
    attribute(element(properties, 'alias'), 'val') ||
    attribute(element(properties, 'tag'), 'val') ||
    ''
  ).trim()
  const kind = elements(properties).find((each) => (each.localName ?? '') in TYPES)
  if (!label || !kind) return null
  const content = element(sdt, 'sdtContent')
  const words = allBelow(content, 't')
    .map((each) => each.textContent ?? '')
    .join('')
    .trim()
    .slice(0, 200)
  const isHint = isOn(element(properties, 'showingPlcHdr'))
  const type = TYPES[kind.localName!]!
  const choices =
    type === 'choice'
      ? [
          ...new Set(
            elements(kind, 'listItem').map((item) =>
              (attribute(item, 'displayText') ?? attribute(item, 'value') ?? '').trim(),
            ),
          ),
        ].filter((choice) => choice !== '' && choice !== words)
      : []
  return {
    name: fieldName(label),
    label: cut(label, 120),
    clues: {
      type: type === 'choice' && choices.length === 0 ? 'text' : type,
      ...(choices.length ? { choices: choices.slice(0, 100) } : {}),
      ...(type !== 'yes/no' && words
        ? isHint
          ? { help: words }
          : type === 'date'
            ? {}
            : { example: words }
        : {}),
    },
    format: type === 'yes/no' ? 'tick' : null,
  }
}
