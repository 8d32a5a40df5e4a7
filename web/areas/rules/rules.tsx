import { useMutation } from '@tanstack/react-query'
import { Plus, Trash2 } from 'lucide-react'
import { useMemo, useState } from 'react'
import { Link } from 'react-router'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { NameTypes } from '#core/expression/check.ts'
import { nameTypes } from '#core/outline/field.ts'
import { expressionFaults } from '#core/merge/faults.ts'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Input } from '#web/parts/input.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'

type RuleTable = Answer<Api['rules']>[number]

/** Who must approve what. A row that nothing applies to goes straight to signature. */
export default function Rules() {
  const may = useMay('rules')
  const rules = useAnswer('rules')
  const templates = useAnswer('templates')
  const first = templates.data?.[0]?.id ?? ''
  const template = useAnswer('template', { params: { id: first } }, { enabled: first !== '' })
  const names = useMemo(() => nameTypes(template.data?.draft.outline ?? []), [template.data])
  if (rules.isPending || (first && template.isPending)) return <Loading />
  if (rules.isError) return <Failed error={rules.error} retry={() => void rules.refetch()} />
  return (
    <div className="h-full overflow-auto px-4 pt-4 pb-10">
      <h1 className="text-xl">Rules</h1>
      <p className="mt-1 max-w-2xl text-sm text-soft">
        Each rule that holds for an agreement asks its post for approval. Where none holds, the agreement is
        cleared at once. Rules in force are applied when agreements are made.
      </p>
      {may && (
        <p className="mt-1 text-sm">
          <Link to="/rules/trail" className="text-petrol hover:underline">
            Trail of the installation
          </Link>
        </p>
      )}
      {rules.data.length === 0 && <Empty title="No rule table yet" />}
      {rules.data.map((table) => (
        <RuleTableEditor key={`${table.id}${table.version}`} table={table} names={names} />
      ))}
    </div>
  )
}

function RuleTableEditor({ table, names }: { readonly table: RuleTable; readonly names: NameTypes }) {
  const may = useMay('rules')
  const say = useNotice()
  const [rules, setRules] = useState(table.rules)
  const changed = JSON.stringify(rules) !== JSON.stringify(table.rules)
  const faults = rules.map(({ condition }) =>
    condition.trim()
      ? (expressionFaults(condition, names)[0] ?? null)
      : { message: 'A condition is missing.', from: 0, to: 0 },
  )
  const save = useMutation({
    mutationFn: () =>
      call('saveRules', { params: { id: table.id }, body: { version: table.version, rules } }),
    onSuccess: () => {
      say('The rules are in force for agreements made from now on.')
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  const set = (i: number, next: Partial<RuleTable['rules'][number]>) =>
    setRules((all) => all.map((rule, at) => (at === i ? { ...rule, ...next } : rule)))
  return (
    <section className="mt-6 max-w-4xl" aria-label={table.name}>
      <h2 className="text-base">{table.name}</h2>
      <table className="mt-2 w-full text-sm">
        <thead className="text-left text-xs text-soft">
          <tr className="border-b border-hair">
            <th className="w-8 py-1 font-normal" />
            <th className="font-normal">Where</th>
            <th className="w-64 font-normal">this post approves</th>
            <th className="w-10" />
          </tr>
        </thead>
        <tbody>
          {rules.map((rule, i) => (
            <tr key={rule.id} className="border-b border-hair/60 align-top">
              <td className="py-2 text-soft tabular-nums">{i + 1}</td>
              <td className="py-1 pr-3">
                <Input
                  aria-label={`Condition of rule ${i + 1}`}
                  className="font-mono"
                  disabled={!may}
                  value={rule.condition}
                  aria-invalid={faults[i] !== null}
                  onChange={(event) => set(i, { condition: event.target.value })}
                />
                {faults[i] && (
                  <p role="alert" className="mt-0.5 text-xs text-brick">
                    {faults[i].message}
                  </p>
                )}
              </td>
              <td className="py-1 pr-3">
                <Input
                  aria-label={`Post of rule ${i + 1}`}
                  disabled={!may}
                  value={rule.approver}
                  onChange={(event) => set(i, { approver: event.target.value })}
                />
              </td>
              <td className="py-1">
                {may && (
                  <button
                    className="p-1.5 text-soft hover:text-brick"
                    aria-label={`Remove rule ${i + 1}`}
                    onClick={() => setRules((all) => all.filter((_, at) => at !== i))}
                  >
                    <Trash2 size={15} />
                  </button>
                )}
              </td>
            </tr>
          ))}
          <tr>
            <td />
            <td className="py-2 text-soft" colSpan={3}>
              Everything else goes straight to signature.
            </td>
          </tr>
        </tbody>
      </table>
      {may && (
        <div className="mt-2 flex gap-2">
          <Button
            kind="quiet"
            onClick={() =>
              setRules((all) => [
                ...all,
                { id: crypto.randomUUID().slice(0, 8), condition: '', approver: '' },
              ])
            }
          >
            <Plus size={14} /> Add a rule
          </Button>
          {changed && (
            <>
              <Button className="ml-auto" onClick={() => setRules(table.rules)}>
                Undo changes
              </Button>
              <Button
                kind="main"
                busy={save.isPending}
                disabled={faults.some(Boolean) || rules.some(({ approver }) => !approver.trim())}
                onClick={() => save.mutate()}
              >
                Put in force
              </Button>
            </>
          )}
        </div>
      )}
    </section>
  )
}
