import type { Person } from '#contract/person.ts'
import { type Json, nestedColumns, nestedRows, type PointedProblem } from '#core/mapping/nested.ts'
import { dayIn } from '#core/organisation/organisation.ts'
import type { RecordData } from '#core/outline/field.ts'
import { bundleFields } from '#core/packet/bundle.ts'
import { plainSetup } from '#core/run/setup.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { sha256 } from '#server/files/store.ts'
import { Kept } from '#server/ground/kept.ts'
import { type SharedTerms, shareTerms } from '#server/worker-pools/shared-terms.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { rulesFor } from '#server/services/rules/in-force.ts'
import { chosenBundle, type ReadyEdition, senderDetails } from '#server/services/templates/editions.ts'

// Values that come from outside as they are, without a source and its columns: checked by the terms of what is to be made.

/** Terms of what was made lately: threads prepare them once. */
const terms = new Kept<SharedTerms>(16)

type Values = { readonly [name: string]: Json }
type From = Parameters<typeof rulesFor>[2]['from']

/** What values are checked by: the newest editions of what was named, and the rules in force. */
export async function givenChecker(
  app: App,
  by: Person,
  what: { readonly templateId?: string | null | undefined; readonly packetId?: string | null | undefined },
  from: From,
) {
  const { made, bundle, templateId } = await chosenBundle(app, by, what)
  const fields = bundleFields(bundle)
  const organisation = await organisationOf(app.db)
  const rules = await givenRules(app.db, bundle.editions, by, from)
  const more = {
    setup: plainSetup,
    rules,
    today: dayIn(organisation.timeZone, app.now()),
    sender: senderDetails(by, organisation.name),
    files: [],
  }
  // What else there is of the terms follows from the editions, which never change.
  const editions = bundle.editions.map(({ id }) => id)
  const shared = terms.take(sha256(JSON.stringify([app.settings.databaseUrl, editions, more])), () =>
    shareTerms({
      contents: bundle.parts.map(({ content }) => content),
      ...nestedColumns(fields),
      ...more,
    }),
  )
  /** The data of each, or what is wrong with it, told where it stands in what was sent. */
  const check = async (rows: readonly { readonly values: Values; readonly at: string }[]) => {
    const read = rows.map(({ values, at }) => nestedRows(fields, values, at))
    const checked = await app.pages.checkRows(
      shared,
      read.map(({ rows: own }) => ({ rows: own, answers: {} })),
    )
    return checked.map(({ data, problems }, i): { data: RecordData; problems: readonly PointedProblem[] } => {
      const { problems: shape, pointerTo } = read[i]!
      const told = new Set(shape.map(({ pointer }) => pointer))
      return {
        data,
        problems: [
          ...shape,
          ...problems
            .map((problem) => ({ pointer: pointerTo(problem), message: problem.message }))
            .filter(({ pointer }) => !told.has(pointer)),
        ],
      }
    })
  }
  return { made, bundle, fields, rules, templateId, check }
}

/** The rules in force for what is made in somebody's name. */
export const givenRules = (db: Db, editions: readonly ReadyEdition[], by: Person, from: From) =>
  rulesFor(
    db,
    editions.map(({ templateId }) => templateId),
    { author: by.id, from, rows: 1 },
  )
