import { randomUUID } from 'node:crypto'
import { asc, eq } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import { type Field, fieldNameProblem, type Outline } from '#core/outline/field.ts'
import { prepareOutline } from '#core/outline/record.ts'
import { fieldsOfKind, isOwnField, type RecordKind } from '#core/records/kinds.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { recordField } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { invalid } from '#server/ground/problem.ts'

/** Fields of a kind: its own, and those people have added. */
export async function fieldsOf(db: Db, kind: RecordKind): Promise<Outline> {
  const added = await db
    .select({ field: recordField.field })
    .from(recordField)
    .where(eq(recordField.kind, kind))
    .orderBy(asc(recordField.position))
  return fieldsOfKind(
    kind,
    added.map(({ field }) => field),
  )
}

/** The fields of a kind, and which of them it has from the start. */
export async function readFields(app: App, kind: RecordKind) {
  const fields = await fieldsOf(app.db, kind)
  return {
    fields: structuredClone(fields) as Field[],
    own: fields.map(({ name }) => name).filter((name) => isOwnField(kind, name)),
  } as never
}

/** Replaces the fields that were added to a kind. Values of a field that goes stay in the records, unseen. */
export async function saveFields(app: App, by: Person, kind: RecordKind, fields: readonly Field[]) {
  await requireMay(app, by, 'templates')
  const names = new Set<string>()
  for (const [i, field] of fields.entries()) {
    const problem =
      fieldNameProblem(field.name) ??
      (isOwnField(kind, field.name) || names.has(field.name)
        ? `There is a field “${field.name}” already.`
        : null)
    if (problem) throw invalid(problem, [{ pointer: `/fields/${i}/name`, detail: problem }])
    names.add(field.name)
  }
  const prepared = prepareOutline(fieldsOfKind(kind, fields))
  if (!prepared.ok) throw invalid(prepared.problems[0]!.message)
  await transaction(app, async ({ db }) => {
    await db.delete(recordField).where(eq(recordField.kind, kind))
    if (fields.length)
      await db
        .insert(recordField)
        .values(
          fields.map((field, position) => ({ id: randomUUID(), kind, name: field.name, field, position })),
        )
  })
  return readFields(app, kind)
}
