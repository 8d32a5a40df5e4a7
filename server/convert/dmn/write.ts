import { DmnModdle, type Element } from 'dmn-moddle'
import { testedBy } from '#core/rules/faults.ts'
import type { RuleNames } from '#core/rules/names.ts'
import { type OutputKey, OUTPUTS } from '#core/rules/outputs.ts'
import { isAnything, type RuleTable } from '#core/rules/table.ts'
import { OURS, POLICIES, PREFIX } from './model.ts'

const TYPES: Readonly<Record<string, string>> = {
  number: 'number',
  string: 'string',
  boolean: 'boolean',
  date: 'date',
  time: 'time',
  'date and time': 'dateTime',
}

/** Outputs that are numbers in the model. */
const NUMBERS: ReadonlySet<OutputKey> = new Set(['order', 'days', 'signBy'])

/**
 * A rule table as a decision model (OMG DMN 1.3 XML). One that was read from a model goes back into it: what other programs have
 * put there, on the table, its columns or its rows, is still there.
 */
export async function writeDmn(table: RuleTable, names: RuleNames, model: string | null): Promise<string> {
  const moddle = new DmnModdle()
  const root = (model !== null && (await readBack(moddle, model))) || newModel(moddle, table)
  const decision = root.drgElement!.find(({ decisionLogic }) => decisionLogic?.$type === 'dmn:DecisionTable')!
  decision.name = table.name
  const logic = decision.decisionLogic!
  const known = (elements: readonly Element[] | undefined) =>
    new Map((elements ?? []).flatMap((each) => (each.id ? [[each.id, each] as const] : [])))
  const [inputs, rules] = [known(logic.input), known(logic.rule)]
  const within = (parent: Element, type: string, attributes: Readonly<Record<string, unknown>>): Element => {
    const made = moddle.create(type, attributes)
    made.$parent = parent
    return made
  }
  /** The element as it was, with these attributes now. */
  const changed = (
    before: Element | undefined,
    parent: Element,
    type: string,
    now: Readonly<Record<string, unknown>>,
  ) => {
    if (!before) return within(parent, type, now)
    for (const [key, value] of Object.entries(now))
      if (before[key] !== value) (before as Record<string, unknown>)[key] = value
    return before
  }
  logic.hitPolicy = POLICIES[table.hitPolicy]
  delete logic.aggregation
  Object.assign(root.$attrs, { [`xmlns:${PREFIX}`]: OURS })
  Object.assign(logic.$attrs, {
    [`${PREFIX}:missing`]: table.missing,
    [`${PREFIX}:otherwise`]: table.otherwise,
    ...(table.escalateTo ? { [`${PREFIX}:escalateTo`]: table.escalateTo } : {}),
  })
  logic.input = table.inputs.map((input) => {
    const before = inputs.get(input.id)
    const made = changed(before, logic, 'dmn:InputClause', {
      id: input.id,
      label: input.label || names.words.label(input.expression),
      ...(input.width === undefined ? {} : { width: input.width }),
    })
    const typeRef = TYPES[testedBy(input, names).type]
    made.inputExpression = changed(before?.inputExpression, made, 'dmn:LiteralExpression', {
      text: input.expression,
      ...(typeRef ? { typeRef } : {}),
    })
    return made
  })
  const ordered = table.hitPolicy === 'priority' || table.hitPolicy === 'output order'
  const formerOutputs = logic.output ?? []
  logic.output = table.outputs.map(({ key }, i) => {
    const before =
      formerOutputs.find(({ name }) => name === key) ??
      (i === 0 && key === 'approver' ? formerOutputs[0] : undefined)
    const made = changed(before, logic, 'dmn:OutputClause', {
      id: before?.id ?? `output_${key}`,
      name: before?.name ?? key,
      label: before?.label ?? OUTPUTS[key].label,
      typeRef: NUMBERS.has(key) ? 'number' : 'string',
    })
    if (ordered && i === 0)
      made.outputValues = changed(before?.outputValues, made, 'dmn:UnaryTests', {
        text: table.priorities.map((each) => JSON.stringify(each)).join(', '),
      })
    return made
  })
  logic.rule = table.rows.map((row) => {
    const before = rules.get(row.id)
    const made = changed(before, logic, 'dmn:DecisionRule', {
      id: row.id,
      ...(row.note ? { description: row.note } : {}),
    })
    if (!row.note) delete made.description
    made.inputEntry = table.inputs.map(({ id }, i) => {
      const cell = row.when[id]
      return changed(before?.inputEntry?.[i], made, 'dmn:UnaryTests', {
        text: isAnything(cell) ? '-' : cell!,
      })
    })
    made.outputEntry = table.outputs.map(({ key }, i) =>
      changed(before?.outputEntry?.[i], made, 'dmn:LiteralExpression', {
        text: outputText(key, row.then[key] ?? ''),
      }),
    )
    return made
  })
  return (await moddle.toXML(root, { format: true })).xml
}

/** An output as a FEEL literal; nothing is an empty text, for an entry has to say something. */
function outputText(key: OutputKey, text: string): string {
  const written = text.trim()
  return NUMBERS.has(key) ? written || 'null' : JSON.stringify(written)
}

async function readBack(moddle: DmnModdle, xml: string): Promise<Element | null> {
  const { rootElement } = await moddle.fromXML(xml)
  const has = (rootElement.drgElement ?? []).some(
    ({ decisionLogic }) => decisionLogic?.$type === 'dmn:DecisionTable',
  )
  return has ? rootElement : null
}

function newModel(moddle: DmnModdle, table: RuleTable): Element {
  const root = moddle.create('dmn:Definitions', { id: 'definitions', name: table.name, namespace: OURS })
  const decision = moddle.create('dmn:Decision', { id: 'decision', name: table.name })
  const logic = moddle.create('dmn:DecisionTable', { id: 'decision_table', input: [], output: [], rule: [] })
  logic.$parent = decision
  decision.decisionLogic = logic
  decision.$parent = root
  root.drgElement = [decision]
  return root
}
