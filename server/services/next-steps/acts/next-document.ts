import { billOf } from '#core/bill/bill.ts'
import { asGiven } from '#core/intake/answers.ts'
import { dayIn } from '#core/organisation/organisation.ts'
import type { RecordData } from '#core/outline/field.ts'
import { requireMay } from '#server/app/actor.ts'
import { ublOf } from '#server/convert/ubl/write.ts'
import { conflict } from '#server/ground/problem.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { givenChecker } from '#server/services/making/check-given.ts'
import { one } from '#server/db/one.ts'
import type { Doing, Following } from './following.ts'

/** Fields that the next document may have of the agreement that it follows: they are filled by themselves. */
const OF_THE_AGREEMENT = {
  'agreement.number': ({ row }: Following) => row.number,
  'agreement.name': ({ row }: Following) => row.name,
  'agreement.day': ({ at }: Following, zone: string) => dayIn(zone, at),
} as const

/**
 * Another document from the same values, with a number of its own template's series: kept in the transaction
 * that ends the step, so that there is never a second one. As a bill it has itself as data beside it.
 */
export const nextDocument: Doing<'next document'> = {
  makes: async (app, following) => {
    const { id, step, row, by } = following
    await requireMay(app, by, 'runs')
    if (step.send) await requireMay(app, by, 'send')
    const { made, bundle, fields, rules, check } = await givenChecker(
      app,
      by,
      { templateId: step.template },
      'record',
    )
    const organisation = await organisationOf(app.db)
    const names = new Set(fields.map(({ name }) => name))
    const own = Object.entries(OF_THE_AGREEMENT).map(([name, read]) => [
      name,
      read(following, organisation.timeZone),
    ])
    const values = Object.fromEntries(
      [...Object.entries(row.data), ...own].filter(([name]) => names.has(name as string)),
    ) as RecordData
    const checked = one(await check([{ values: asGiven(values), at: '' }]))
    if (checked.problems.length) throw conflict(checked.problems.map(({ message }) => message).join(' '))
    const { data } = checked
    const issued = dayIn(organisation.timeZone, app.now())
    const { city, postCode, taxNumber, taxScheme } = organisation
    const seller = {
      name: organisation.name,
      city,
      postCode,
      taxNumber,
      taxScheme,
      address: organisation.address
        .split('\n')
        .map((line) => line.trim())
        .filter(Boolean),
    }
    const along = async (number: string) => {
      if (!step.bill) return []
      const read = billOf(bundle.parts[0], data, step.bill, { number, issued, seller })
      if (!read.ok) throw conflict(read.problem)
      const bytes = Buffer.from(ublOf(read.bill))
      const file = one(await app.files.store([bytes], 'application/xml'))
      return [{ name: `${number}.xml`, file: file }]
    }
    return {
      said: `made from ${bundle.parts[0].content.title}`,
      send: step.send,
      single: {
        bundle,
        made,
        series: bundle.editions[0]!.seriesId,
        origin: { kind: 'aftermath', agreement: row.id, step: step.id },
        occasion: `aftermath ${id}`,
        from: { data, language: row.language, copies: [], extra: [] },
        rules,
        by,
        told: { origin: 'aftermath', named: row.number },
        recordId: row.recordId,
        along,
      },
    }
  },
}
