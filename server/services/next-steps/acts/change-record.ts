import { eq } from 'drizzle-orm'
import { compileExpression } from '#core/expression/compile.ts'
import { withBudget } from '#core/expression/values/budget.ts'
import { toText } from '#core/expression/values/value.ts'
import { coerce } from '#core/outline/coerce.ts'
import { one } from '#server/db/one.ts'
import { record } from '#server/db/schema.ts'
import { conflict } from '#server/ground/problem.ts'
import { changeRecord } from '#server/services/records/records.ts'
import { fieldsOf } from '#server/services/records/record-fields.ts'
import type { Doing } from './following.ts'

/** Steps that one expression may take. */
const STEPS = 100_000

/** A field of the record gets a value: a deal's status follows its agreement like that. */
export const changeRecordAct: Doing<'change the record'> = {
  inside: async (work, { step, row, context, by }) => {
    const { db } = work
    if (!row.recordId) throw conflict('The agreement belongs to no record.')
    const [own] = await db.select().from(record).where(eq(record.id, row.recordId))
    const id = step.of === 'customer' && own?.kind !== 'customer' ? own?.customerId : row.recordId
    if (!id) throw conflict('The record belongs to no customer.')
    const found = one(await db.select().from(record).where(eq(record.id, id)).for('update'))
    const fields = await fieldsOf(db, found.kind)
    const field = fields.find(({ name }) => name === step.field)
    if (!field) throw conflict(`A ${found.kind} has no field “${step.field}”.`)
    const compiled = compileExpression(step.value)
    if (!compiled.ok) throw conflict(compiled.problem.message)
    const value = withBudget(STEPS, () => compiled.expression.evaluate(context))
    const read = coerce(field, typeof value === 'boolean' ? value : value === null ? '' : toText(value), null)
    if (!read.ok) throw conflict(`“${field.label}”: ${read.problem}`)
    if (read.value === null) throw conflict(`There is no value for “${field.label}”.`)
    if (found.data[field.name] === read.value)
      return { said: `${field.label} was ${String(read.value)} already` }
    await changeRecord(work, by, id, { ...found.data, [field.name]: read.value })
    await work.enqueue('follow-records', {})
    return { said: `${found.name}: ${field.label} is ${String(read.value)}` }
  },
}
