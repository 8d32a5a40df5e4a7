import { keysOf } from '#core/keys-of.ts'
import type { CheckLevel } from '#core/checks/checks.ts'
import { useSearchParams } from 'react-router'
import { plural } from '#web/parts/signs/when.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'

const LEVELS: Record<
  CheckLevel,
  { readonly title: string; readonly one: string; readonly tone: string; readonly help: string }
> = {
  fault: { title: 'Errors', one: 'error', tone: 'text-brick', help: 'have to be fixed before publishing' },
  warning: { title: 'Warnings', one: 'warning', tone: 'text-ochre', help: 'some record will come out wrong' },
  hint: { title: 'Hints', one: 'hint', tone: 'text-soft', help: 'worth a look' },
}

const PANELS = { field: 'data', role: 'roles', sending: 'sending', page: 'page' } as const

/** Everything worth knowing before the template is used; each leads to its place. */
export function ChecksPanel() {
  const { checks, goTo } = useStudio()
  const [, setSearch] = useSearchParams()
  return (
    <div className="min-h-0 overflow-auto p-5" tabIndex={0} role="region" aria-label="Checks">
      {checks.length === 0 && (
        <p className="border-l-2 border-moss pl-4 text-sm">
          No errors. Every name is known, every condition can be true, every role has something to sign.
        </p>
      )}
      {keysOf(LEVELS).map((level) => {
        const found = checks.filter((check) => check.level === level)
        if (!found.length) return null
        return (
          <section key={level} className="mb-5">
            <h2 className={`text-base ${LEVELS[level].tone}`}>
              {LEVELS[level].title}{' '}
              <span className="font-sans text-sm font-normal text-soft">
                {plural(found.length, LEVELS[level].one)}, {LEVELS[level].help}
              </span>
            </h2>
            <ul className="mt-1 text-sm">
              {found.map((check, i) => (
                <li key={i} className="border-b border-hair/60">
                  <button
                    className="w-full py-1.5 text-left hover:bg-wash"
                    onClick={() =>
                      check.where === 'block'
                        ? goTo(check.id)
                        : setSearch({ panel: PANELS[check.where] }, { replace: true })
                    }
                  >
                    {check.message}
                    <span className="block truncate text-xs text-soft">{check.title}</span>
                  </button>
                </li>
              ))}
            </ul>
          </section>
        )
      })}
    </div>
  )
}
