import { useMemo, useState } from 'react'
import { compareEditions, type PassageChange } from '#core/compare/editions.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { plural } from '#web/parts/signs/when.tsx'
import { WordChanges } from '#web/parts/signs/word-changes.tsx'

const KINDS: Record<PassageChange['kind'], string> = {
  same: '',
  changed: 'changed',
  added: 'new',
  removed: 'left out',
  moved: 'moved',
  'moved and changed': 'moved and changed',
}

/** Two states of a template, word by word: what is new underlined, what was left out struck through, what moved said so. */
export function CompareView({
  before,
  after,
  names,
}: {
  readonly before: TemplateContent
  readonly after: TemplateContent
  readonly names: readonly [string, string]
}) {
  const [whole, setWhole] = useState(false)
  const comparison = useMemo(() => compareEditions(before, after), [before, after])
  const shown = whole ? comparison.passages : comparison.passages.filter(({ kind }) => kind !== 'same')
  const nothing = comparison.changes === 0 && comparison.facts.length === 0
  return (
    <section aria-label="Comparison">
      <div className="mb-2 flex items-baseline gap-4 text-sm">
        <p role="status" className="first-letter:uppercase">
          {nothing
            ? `${names[0]} and ${names[1]} say the same.`
            : `From ${names[0]} to ${names[1]}: ${plural(comparison.changes, 'passage')} and ${plural(comparison.facts.length, 'setting')} differ.`}
        </p>
        <label className="ml-auto flex items-center gap-1.5 text-soft">
          <input type="checkbox" checked={whole} onChange={(event) => setWhole(event.target.checked)} /> whole
          text
        </label>
      </div>
      <ol>
        {shown.map((passage, i) => (
          <li key={i} className="flex gap-3 border-b border-hair/50 py-1.5">
            <span className="w-24 shrink-0 text-right font-serif text-xs text-soft italic">
              {KINDS[passage.kind]}
              {passage.moved && (
                <span className="block">
                  {passage.moved.from > passage.moved.to ? 'from further down' : 'from further up'}
                </span>
              )}
            </span>
            <div
              className="min-w-0 flex-1 font-serif text-sm whitespace-pre-wrap"
              style={{ paddingLeft: passage.depth * 14 }}
            >
              {passage.notes && (
                <p className="font-serif text-xs italic">
                  {passage.notes.before.length > 0 && (
                    <del className="mr-2 text-brick">{passage.notes.before.join(', ')}</del>
                  )}
                  {passage.notes.after.length > 0 && (
                    <ins className="text-moss">{passage.notes.after.join(', ')}</ins>
                  )}
                </p>
              )}
              <WordChanges words={passage.words} context={whole ? null : 14} />
            </div>
          </li>
        ))}
      </ol>
      {comparison.facts.length > 0 && (
        <table className="mt-4 w-full text-left text-sm">
          <thead className="text-xs text-soft">
            <tr>
              <th className="py-1 font-normal">Setting</th>
              <th className="font-normal">{names[0]}</th>
              <th className="font-normal">{names[1]}</th>
            </tr>
          </thead>
          <tbody>
            {comparison.facts.map((fact, i) => (
              <tr key={i} className="border-t border-hair/60 align-top">
                <td className="py-1 pr-3">
                  {fact.what} <span className="text-xs text-soft">{fact.area}</span>
                </td>
                <td className="pr-3 text-brick">
                  {fact.before === null ? (
                    <span className="text-soft">not there</span>
                  ) : (
                    <del>{fact.before}</del>
                  )}
                </td>
                <td className="text-moss">
                  {fact.after === null ? (
                    <span className="text-soft">left out</span>
                  ) : (
                    <ins>{fact.after}</ins>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  )
}
