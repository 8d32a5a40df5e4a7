import type * as v from 'valibot'
import type {
  oneAgreementAsked,
  oneAgreementMade,
  oneAgreementProof,
  typedAgreementAsked,
} from '#contract/one-agreement.ts'
import type { Person } from '#contract/person.ts'
import { shownValues } from '#core/merge/shown.ts'
import { dayIn } from '#core/organisation/organisation.ts'
import { type Field, fieldsAndLists, type Outline } from '#core/outline/field.ts'
import { bundleFields, fillBundle, mergeBundle } from '#core/packet/bundle.ts'
import { ORIGINS } from '#core/agreement/origin.ts'
import { readItemKey } from '#core/mapping/key.ts'
import { nestedColumns, nestedRows } from '#core/mapping/nested.ts'
import { matchKey } from '#core/records/import.ts'
import type { CheckedGroup } from '#core/run/check.ts'
import { duplicateProblems } from '#core/run/duplicates.ts'
import { labelField } from '#core/run/label.ts'
import { plainSetup } from '#core/run/setup.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { shareTerms } from '#server/worker-pools/shared-terms.ts'
import { conflict, invalid, invalidAt, notFound } from '#server/ground/problem.ts'
import { liveAgreements } from '#server/services/runs/check-rows.ts'
import { recordSource } from '#server/services/records/record-sources.ts'
import { suggestedMapping } from '#server/services/sheets/mappings.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { rulesFor } from '#server/services/rules/in-force.ts'
import { madeOn } from './reserve-numbers.ts'
import { drawBundle } from '#server/services/templates/drawing.ts'
import { chosenBundle, senderDetails } from '#server/services/templates/editions.ts'
import { one } from '#server/db/one.ts'
import { makeClaimed, type Single } from './make-claimed.ts'

// One agreement of one record, or of values that somebody types, without a run: chosen, proved with what is missing, made.

type Asked = v.InferOutput<typeof oneAgreementAsked> & Partial<Pick<Typed, 'lists'>>
type Typed = v.InferOutput<typeof typedAgreementAsked>
/** The record that it is made of; null: of typed values alone. */
type From = { readonly kind: string; readonly id: string } | null
type Value = v.InferOutput<typeof oneAgreementProof>['values'][number]

/** A record as a source: its one row, its columns mapped as they were the last time or as their names suggest. */
async function sourceOfRecord(
  app: App,
  { kind, id }: NonNullable<From>,
  fields: Outline,
  templateId: string,
  answers: Asked['answers'],
) {
  const { record, columns, cells } = await recordSource(app.db, id)
  if (record.kind !== kind) throw notFound(kind)
  const mapping = (await suggestedMapping(app, columns, fields, templateId)).suggested
  return { record, columns, mapping, rows: [{ row: 1, cells }], answers }
}

/** What was typed as a source: a column for each field, a row for each item of the lists. */
function sourceOfTyped(fields: Outline, { answers, lists = {} }: Asked) {
  const { rows, problems } = nestedRows(fields, { ...answers, ...lists })
  if (problems.length)
    throw invalidAt(problems.map(({ pointer, message }) => ({ pointer: `/lists${pointer}`, message })))
  return { record: null, ...nestedColumns(fields), rows, answers: {} }
}

/** The source read, checked and routed by the same terms as a run's row, short of drawing it. */
async function checkOne(app: App, by: Person, from: From, asked: Asked) {
  const chosen = await chosenBundle(app, by, asked)
  const fields = bundleFields(chosen.bundle)
  refuseUnknown(fields, asked.answers)
  const source = from
    ? await sourceOfRecord(app, from, fields, chosen.templateId, asked.answers)
    : sourceOfTyped(fields, asked)
  const { mapping, rows, answers } = source
  const organisation = await organisationOf(app.db)
  const rules = await rulesFor(
    app.db,
    chosen.bundle.editions.map(({ templateId }) => templateId),
    { author: by.id, from: ORIGINS[from ? 'record' : 'typed'].rules, rows: 1 },
  )
  const shared = shareTerms({
    contents: chosen.bundle.parts.map(({ content }) => content),
    columns: source.columns,
    mapping,
    setup: plainSetup,
    rules,
    today: dayIn(organisation.timeZone, app.now()),
    sender: senderDetails(by, organisation.name),
    files: [],
  })
  const checked = one(await app.pages.checkRows(shared, [{ rows, answers }]))
  const name = labelField(chosen.bundle.parts[0].content)
  const said = checked.data[name]
  const live =
    typeof said === 'string' && matchKey(said)
      ? duplicateProblems([{ row: 1, said }], await liveAgreements(app.db, null, chosen.templateId, name), {
          field: name,
        }).get(1)?.[0]?.message
      : undefined
  return { ...chosen, source, fields, mapping, rules, checked: checked, live: live ?? null }
}

/** What the agreement would be: its values with what is wrong, its people, approvals and pages. */
export async function proveOne(
  app: App,
  by: Person,
  from: From,
  asked: Asked,
): Promise<v.InferOutput<typeof oneAgreementProof>> {
  await requireMay(app, by, 'runs')
  const found = await checkOne(app, by, from, asked)
  const { bundle, checked, fields } = found
  const merged = mergeBundle(bundle, checked.data, null)
  const drawn = await drawBundle(app, bundle, merged.documents, { proof: true, at: new Date(0) })
  const origins = merged.documents.flatMap((each) => each.origins)
  const values = valuesOf(found)
  const told = fieldsAndLists(fields)
  return {
    name: fillBundle(bundle, checked.data, bundle.parts[0].content.sending.agreementName, null),
    record: found.source.record?.name ?? null,
    documents: bundle.parts.map(({ content }, i) => ({ title: content.title, edition: found.numbers[i]! })),
    values,
    problems: checked.problems
      .filter(({ field }) => !told.has(field) && (found.source.record || !readItemKey(field)))
      .map(({ message }) => message),
    live: found.live,
    people: checked.people.map((person) => ({ ...person })),
    approvals: checked.approvals.map((approval) => ({ ...approval })),
    pages: drawn.pages,
    overflow: [
      ...drawn.overflow.map(
        ({ origin, blank, text }) =>
          `${blank ?? origins[origin ?? -1]?.label ?? 'A value'}: “${text}” is too long for its place.`,
      ),
      ...drawn.alone.map(() => 'The signatures stand on a page with no words above them.'),
    ],
    pdf: Buffer.from(drawn.pdf).toString('base64'),
  }
}

/** A value for a field that the templates do not have would be lost without a word. */
function refuseUnknown(fields: readonly Field[], answers: Asked['answers']): void {
  const known = fieldsAndLists(fields)
  const unknown = Object.keys(answers).filter((name) => !known.has(name))
  if (unknown.length)
    throw invalid(
      `There is no field “${unknown[0]}”.`,
      unknown.map((name) => ({ pointer: `/answers/${name}`, detail: 'There is no such field.' })),
    )
}

/** Every value that somebody could give here: plain fields, and those of lists where one is at fault. */
function valuesOf({
  bundle,
  checked,
  fields,
  mapping,
  source,
}: Awaited<ReturnType<typeof checkOne>>): Value[] {
  const shown = Object.assign(
    {},
    ...bundle.parts.map((ready) => shownValues(ready, checked.data)),
  ) as Readonly<Record<string, string | null>>
  const one = (field: Field, list: string | null): Value => {
    const name = list === null ? field.name : `${list}.${field.name}`
    const said = list === null ? (shown[name] ?? null) : null
    return {
      name,
      label: field.label,
      type: field.type,
      list,
      required: field.required && field.default === undefined,
      help: field.help ?? null,
      example: field.example ?? null,
      choices: field.choices ? [...field.choices] : null,
      items: itemsOf(field),
      itemProblems: field.type === 'list' ? itemProblems(checked, field) : [],
      said,
      column: source.record ? (mapping[name] ?? null) : null,
      ...problemOf(checked, field, name, said),
    }
  }
  return fields.flatMap((field) => [
    one(field, null),
    // Of a record, its items' values are given for all of them; typed, each is where it is typed.
    ...(source.record ? (field.items ?? []) : [])
      .filter((item) => checked.problems.some((problem) => problem.field === `${field.name}.${item.name}`))
      .map((item) => one(item, field.name)),
  ])
}

const itemsOf = ({ items = [] }: Field): Value['items'] =>
  items
    .filter(({ computed }) => computed === undefined)
    .map(({ name, label, type, required, default: otherwise, choices }) => ({
      name,
      label,
      type,
      required: required && otherwise === undefined,
      choices: choices ? [...choices] : null,
    }))

/** What is wrong with single items of a list, where it stands. */
const itemProblems = ({ problems }: CheckedGroup, list: Field): Value['itemProblems'] =>
  problems.flatMap(({ field, row, message }) => {
    const item = readItemKey(field)
    return item?.list === list.name ? [{ item: (row ?? 1) - 1, name: item.name, message }] : []
  })

/** What is wrong with a value, in words that know no columns: there is one record here, and nobody has mapped it. */
function problemOf({ problems }: CheckedGroup, field: Field, name: string, said: string | null) {
  const found = problems.find((problem) => problem.field === name)
  if (!found) return { problem: null, missing: false }
  const missing =
    found.kind === undefined && found.cell === undefined && said === null && field.type !== 'list'
  return { problem: missing ? `“${field.label}” is missing.` : found.message, missing }
}

/**
 * Makes it; what fails leaves neither a number nor anything else. Asked again on the same occasion it is the agreement that
 * was made then.
 */
export async function makeOne(
  app: App,
  by: Person,
  from: From,
  asked: v.InferOutput<typeof oneAgreementMade> & Pick<Asked, 'lists'>,
): Promise<{ id: string }> {
  await requireMay(app, by, 'runs')
  const occasion = `${from ? 'record' : 'typed'} ${by.id} ${asked.occasion}`
  const before = await madeOn(app.db, occasion)
  if (before) return { id: before }
  const found = await checkOne(app, by, from, asked)
  const { bundle, checked, made, rules, source } = found
  if (checked.problems.length)
    throw invalidAt(checked.problems.map(({ field, message }) => ({ pointer: `/answers/${field}`, message })))
  if (found.live && !asked.another) {
    // It may be this one, asked for twice at once.
    const same = await madeOn(app.db, occasion)
    if (same) return { id: same }
    throw conflict(found.live)
  }
  const { data, language, copies } = checked
  const { record } = source
  const single: Single = {
    bundle,
    made,
    series: bundle.editions[0]!.seriesId,
    origin: record ? { kind: 'record', record: record.id } : { kind: 'typed', person: by.id },
    occasion,
    from: { data, language, copies: [...copies], extra: [] },
    rules,
    by,
    told: record ? { origin: 'record', named: record.name } : { origin: 'typed', named: by.name },
    recordId: record?.id ?? null,
    ...(record ? { shapedBy: record.changedBy } : {}),
  }
  return makeClaimed(app, [single], async (_, keep) => ({ id: (await keep())[0]! }))
}
