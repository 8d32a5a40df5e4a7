import iconv from 'iconv-lite'
import { DmnModdle, type Element } from 'dmn-moddle'
import { keysOf } from '#core/keys-of.ts'
import { compileExpression } from '#core/expression/compile.ts'
import { isList, toText } from '#core/expression/values/value.ts'
import { OUTPUT_KEYS, type OutputKey, OUTPUTS } from '#core/rules/outputs.ts'
import { type RuleTable, TABLE_LIMITS } from '#core/rules/table.ts'
import { cut } from '#core/text/cut.ts'
import { decodeText, startsWith } from '../sheet/encoding.ts'
import { OURS, POLICIES } from './model.ts'

/** The rule table of a DMN file, or why there is none. */
export type ReadDmn =
  | {
      readonly ok: true
      readonly table: RuleTable
      /** The file as it was, for what it says beyond the table. */
      readonly model: string
      readonly report: readonly string[]
    }
  | { readonly ok: false; readonly problem: string }

/** Largest file that is read. */
const LARGEST = 5_000_000

const fail = (problem: string): ReadDmn => ({ ok: false, problem })

/** Namespaces of DMN 1.1 to 1.5, each with that of 1.3, in which a table is said alike: what is read is written as 1.3. */
const NAMESPACES: readonly (readonly [of: RegExp, as: string])[] = [
  [
    /http:\/\/www\.omg\.org\/spec\/DMN\/20151101\/dmn\.xsd|https?:\/\/www\.omg\.org\/spec\/DMN\/(?:20151101|20180521|20211108|20230324)\/MODEL\//g,
    'https://www.omg.org/spec/DMN/20191111/MODEL/',
  ],
  [
    /https?:\/\/www\.omg\.org\/spec\/DMN\/(?:20180521|20211108|20230324)\/DMNDI\//g,
    'https://www.omg.org/spec/DMN/20191111/DMNDI/',
  ],
]

const inOneVersion = (xml: string): string => NAMESPACES.reduce((text, [of, as]) => text.replace(of, as), xml)

/** How UTF-16 begins: with its mark, or with `<` as two bytes. */
const WIDE = [
  [0xff, 0xfe],
  [0xfe, 0xff],
  [0x3c, 0],
  [0, 0x3c],
] as const

/** The text of an XML file by its mark, or by what it declares (XML 1.0, appendix F); UTF-8 where it says nothing. */
function decoded(bytes: Uint8Array): string {
  const isWide = WIDE.some((head) => startsWith(bytes, ...head))
  if (isWide) return decodeText(bytes).text
  const head = Buffer.from(bytes.subarray(0, 200)).toString('latin1')
  const said = /^(?:\u00ef\u00bb\u00bf)?<\?xml[^>]{0,100}?encoding=["']([\w.-]{1,40})["']/.exec(head)?.[1]
  const encoding = said && iconv.encodingExists(said) ? said : 'utf-8'
  return iconv.decode(Buffer.from(bytes), encoding)
}

/** The first decision table of a decision model (OMG DMN 1.1 to 1.5 XML), and what the model says beyond a rule table. */
export async function readDmn(bytes: Uint8Array): Promise<ReadDmn> {
  if (bytes.length > LARGEST) return fail('The file is larger than 5 MB.')
  const xml = inOneVersion(decoded(bytes))
  // No model needs a document type; what one can do is to name other files, or to grow without end.
  if (/<!(?:DOCTYPE|ENTITY)/i.test(xml))
    return fail(
      'The file declares a document type or entities. A decision model has none; nothing of it was read.',
    )
  let root: Element
  let warnings: readonly { readonly message: string }[]
  try {
    const read = await new DmnModdle().fromXML(xml)
    root = read.rootElement
    warnings = read.warnings
  } catch (error) {
    return fail(
      `This is no decision model (DMN 1.1 to 1.5): ${error instanceof Error ? firstLine(error.message) : ''}`,
    )
  }
  const decisions = (root.drgElement ?? []).filter(
    ({ decisionLogic }) => decisionLogic?.$type === 'dmn:DecisionTable',
  )
  const [decision] = decisions
  if (!decision) return fail('The model has no decision table.')
  return readTable(decision, xml, [
    ...warnings.map(({ message }) => firstLine(message)),
    ...decisions
      .slice(1)
      .map(({ name, id }) => `The decision table “${name ?? id ?? ''}” was not read: one is.`),
    ...(root.drgElement ?? [])
      .filter((each) => !decisions.includes(each))
      .map(
        ({ $type, name, id }) =>
          `${$type.replace('dmn:', '')} “${name ?? id ?? ''}” has no place in a rule table; it stays in the file.`,
      ),
  ])
}

const firstLine = (text: string): string => cut(text.split('\n')[0]!, 200)

function readTable(decision: Element, xml: string, found: readonly string[]): ReadDmn {
  const report = [...found]
  const logic = decision.decisionLogic!
  const rules = logic.rule ?? []
  if (rules.length > TABLE_LIMITS.rows)
    return fail(`The table has ${rules.length} rows; ${TABLE_LIMITS.rows} are the most.`)
  const inputs = logic.input ?? []
  if (inputs.length > TABLE_LIMITS.inputs)
    return fail(`The table has ${inputs.length} columns; ${TABLE_LIMITS.inputs} are the most.`)
  const policy = keysOf(POLICIES).find((each) => POLICIES[each] === (logic.hitPolicy ?? 'UNIQUE'))
  if (!policy) return fail(`The hit policy “${String(logic.hitPolicy)}” is none of DMN’s.`)
  if (logic.aggregation)
    report.push(
      `The aggregation ${logic.aggregation} has no meaning for approvals; all rows that hold count.`,
    )
  if (decision.extensionElements || logic.extensionElements)
    report.push('The file has extensions of another program: they are kept, and go out again with the table.')
  tellUnread(logic, xml, report)
  const outputs = outputsOf(logic.output ?? [], report)
  const own = (name: string) =>
    Object.entries(logic.$attrs ?? {}).find(([key]) => key.endsWith(`:${name}`) && xml.includes(OURS))?.[1]
  const called = uniqueIds()
  const columns = inputs.map((input, i) => ({
    id: called(input.id, `input${i + 1}`),
    label: cut(input.label ?? '', 200),
    expression: (input.inputExpression?.text ?? '').trim().slice(0, TABLE_LIMITS.cell),
    ...(typeof input.width === 'number' && input.width >= 40 && input.width <= 1200
      ? { width: input.width }
      : {}),
  }))
  const table: RuleTable = {
    name: cut(decision.name ?? decision.id ?? 'Rule table', 200),
    scope: { kind: 'all' },
    hitPolicy: policy,
    missing: own('missing') === 'does not hold' ? 'does not hold' : 'ask',
    otherwise: own('otherwise') === 'fault' ? 'fault' : 'nothing',
    inputs: columns,
    outputs: outputs.flatMap((key) => (key === null ? [] : [{ key }])),
    rows: rules.map((rule, i) => ({
      id: called(rule.id, `row${i + 1}`),
      when: Object.fromEntries(
        columns.map(({ id }, at) => [
          id,
          (rule.inputEntry?.[at]?.text ?? '-').trim().slice(0, TABLE_LIMITS.cell) || '-',
        ]),
      ),
      then: Object.fromEntries(
        outputs.flatMap((key, at) =>
          key === null ? [] : [[key, plainText(rule.outputEntry?.[at]?.text ?? '', i + 1, report)]],
        ),
      ),
      note: (rule.description ?? rule.annotationEntry?.[0]?.text ?? '').slice(0, TABLE_LIMITS.note),
    })),
    priorities: prioritiesOf(logic.output?.[0]),
    escalateTo: own('escalateTo') ?? '',
  }
  return { ok: true, table, model: xml, report: report.slice(0, 100) }
}

/** What a table says that rules do not take up: told, and kept in the file. */
function tellUnread(logic: Element, xml: string, report: string[]): void {
  for (const [i, { name, label, defaultOutputEntry }] of (logic.output ?? []).entries())
    if (defaultOutputEntry?.text)
      report.push(
        `The output “${name ?? label ?? `${i + 1}`}” is ${cut(defaultOutputEntry.text, 60)} where no row holds: rules have no such default. It stays in the file.`,
      )
  const others = [...xml.matchAll(/expressionLanguage\s*=\s*["']([^"']{1,200})["']/g)]
    .map(([, language]) => language!)
    .filter((language) => !/FEEL/i.test(language))
  for (const language of new Set(others))
    report.push(
      `Some of it is written in another language than FEEL (${cut(language, 80)}): it is read as FEEL, and may be none.`,
    )
}

/** Ids as they stand, where they are there and not there twice. */
function uniqueIds(): (id: string | undefined, otherwise: string) => string {
  const used = new Set<string>()
  return (id, otherwise) => {
    const wanted = id && id.length <= 40 && !used.has(id) ? id : otherwise
    let made = wanted
    for (let n = 2; used.has(made); n++) made = `${wanted}_${n}`
    used.add(made)
    return made
  }
}

/** Which of our outputs each column is; the first that is none of them says who approves. */
function outputsOf(outputs: readonly Element[], report: string[]): readonly (OutputKey | null)[] {
  const taken = new Set<OutputKey>()
  const named = outputs.map(({ name, label }) =>
    OUTPUT_KEYS.find((key) =>
      [key, OUTPUTS[key].label.toLowerCase()].includes((name ?? label ?? '').trim().toLowerCase()),
    ),
  )
  return outputs.map(({ name, label }, i) => {
    const free = named.includes('approver') ? undefined : ('approver' as const)
    const key = named[i] ?? (taken.has('approver') ? undefined : free)
    if (!key || taken.has(key)) {
      report.push(`The output “${name ?? label ?? `${i + 1}`}” is none that rules have; it was left out.`)
      return null
    }
    taken.add(key)
    return key
  })
}

/** What an output entry says: a FEEL literal without its quotation marks; anything else as it stands, told. */
function plainText(text: string, row: number, report: string[]): string {
  const written = text.trim()
  if (written === '' || written === '-') return ''
  const compiled = compileExpression(written)
  if (compiled.ok && compiled.expression.reads.length === 0) {
    const value = compiled.expression.evaluate(new Map())
    if (isList(value)) return value.map(toText).join(', ')
    if (value !== null) return toText(value).slice(0, TABLE_LIMITS.cell)
  }
  report.push(
    `Row ${row} gives “${written.slice(0, 60)}”, which is no fixed value; it stands as it is written.`,
  )
  return written.slice(0, TABLE_LIMITS.cell)
}

/** The order of an output’s values (DMN 1.3, 8.2.8: priority and output order). */
function prioritiesOf(output: Element | undefined): readonly string[] {
  const text = output?.outputValues?.text?.trim()
  const compiled = text ? compileExpression(`[${text}]`) : null
  const value = compiled?.ok ? compiled.expression.evaluate(new Map()) : null
  return isList(value) ? value.map(toText).slice(0, 200) : []
}
