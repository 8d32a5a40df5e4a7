import { HEADINGS, soundRows } from '#demo/bookings.ts'
import { seasonAgreement } from '#demo/season-agreement.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import { describeColumn } from '#core/sheet/columns.ts'
import { suggestMapping } from '#core/mapping/suggest.ts'
import { suppliedFields } from '#core/merge/fields.ts'
import { readGroup } from '#core/mapping/apply.ts'
import { mergeBundle, routeBundle } from '#core/packet/bundle.ts'
import { completeRecord } from '#core/outline/record.ts'
const p = prepareTemplate(seasonAgreement)
if (!p.ok) throw 1
const rows = soundRows()
const columns = HEADINGS.map((n, i) =>
  describeColumn(
    n,
    rows.map((r) => r[i] ?? null),
  ),
)
const f = suppliedFields(seasonAgreement)
const m = { ...suggestMapping(f, columns), first_season: 'New grower' }
const bundle = { parts: [p.ready] as const }
const t = { read: 0, complete: 0, merge: 0, route: 0 }
const rules = [{ id: 'a', condition: 'total > 80000', approver: 'x' }]
const N = 3000
for (let i = 0; i < N; i++) {
  let a = performance.now()
  const { data } = readGroup(f, columns, m, [{ row: 1, cells: rows[i % 240]! }])
  let b = performance.now()
  t.read += b - a
  a = b
  completeRecord(p.ready.outline, data)
  b = performance.now()
  t.complete += b - a
  a = b
  mergeBundle(bundle, data, null)
  b = performance.now()
  t.merge += b - a
  a = b
  routeBundle(bundle, rules, data)
  b = performance.now()
  t.route += b - a
}
console.log(Object.fromEntries(Object.entries(t).map(([k, v]) => [k, (v / N).toFixed(3)])))
