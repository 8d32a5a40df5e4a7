import type * as v from 'valibot'
import type { oneAgreementAsked, oneAgreementMade, oneAgreementProof } from '#contract/one-agreement.ts'
import type { Person } from '#contract/person.ts'
import { shownValues } from '#core/merge/shown.ts'
import { dayIn } from '#core/organisation/organisation.ts'
import { type Field, fieldsAndLists } from '#core/outline/field.ts'
import { bundleFields, fillBundle, mergeBundle } from '#core/packet/bundle.ts'
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

// One agreement of one record, without a run: chosen, proved with what is missing, made.

type Asked = v.InferOutput<typeof oneAgreementAsked>
type Value = v.InferOutput<typeof oneAgreementProof>['values'][number]

/** The record read, checked and routed by the same terms as a run's row, short of drawing it. */
async function checkOne(app: App, by: Person, { kind, id }: { kind: string; id: string }, asked: Asked) {
  const chosen = await chosenBundle(app, by, asked)
  const source = await recordSource(app.db, id)
  if (source.record.kind !== kind) throw notFound(kind)
  const fields = bundleFields(chosen.bundle)
  refuseUnknown(fields, asked.answers)
  const mapping = (await suggestedMapping(app, source.columns, fields, chosen.templateId)).suggested
  const organisation = await organisationOf(app.db)
  const rules = await rulesFor(
    app.db,
    chosen.bundle.editions.map(({ templateId }) => templateId),
    { author: by.id, from: 'record', rows: 1 },
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
  const rows = [{ row: 1, cells: source.cells }]
  const checked = one(await app.pages.checkRows(shared, [{ rows, answers: asked.answers }]))
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

/** What an agreement of the record would be: its values with what is wrong, its people, approvals and pages. */
export async function proveOne(
  app: App,
  by: Person,
  from: { kind: string; id: string },
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
    record: found.source.record.name,
    documents: bundle.parts.map(({ content }, i) => ({ title: content.title, edition: found.numbers[i]! })),
    values,
    problems: checked.problems.filter(({ field }) => !told.has(field)).map(({ message }) => message),
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
function valuesOf({ bundle, checked, fields, mapping }: Awaited<ReturnType<typeof checkOne>>): Value[] {
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
      said,
      column: mapping[name] ?? null,
      ...problemOf(checked, field, name, said),
    }
  }
  return fields.flatMap((field) => [
    one(field, null),
    ...(field.items ?? [])
      .filter((item) => checked.problems.some((problem) => problem.field === `${field.name}.${item.name}`))
      .map((item) => one(item, field.name)),
  ])
}

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
  from: { kind: string; id: string },
  asked: v.InferOutput<typeof oneAgreementMade>,
): Promise<{ id: string }> {
  await requireMay(app, by, 'runs')
  const occasion = `record ${by.id} ${asked.occasion}`
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
  const { id, name, changedBy } = source.record
  const single: Single = {
    bundle,
    made,
    series: bundle.editions[0]!.seriesId,
    origin: { kind: 'record', record: id },
    occasion,
    from: { data, language, copies: [...copies], extra: [] },
    rules,
    by,
    told: { origin: 'record', named: name },
    recordId: id,
    shapedBy: changedBy,
  }
  return makeClaimed(app, [single], async (_, keep) => ({ id: (await keep())[0]! }))
}
