import { languageName } from '#core/languages/language.ts'
import type { Sending } from '#contract/sending.ts'
import type { Answer } from '#contract/route.ts'
import type { Api } from '#contract/api.ts'

/** The mail that one party gets, as it would go now. */
export function Preview({
  parties,
  previews,
  shown,
  onShow,
}: {
  readonly parties: Sending['parties']
  readonly previews: Answer<Api['sendingOf']>['previews']
  readonly shown: number
  readonly onShow: (place: number) => void
}) {
  const preview = previews[shown]
  const to = parties[shown]
  return (
    <section
      aria-label="Email preview"
      className="min-h-0 overflow-auto border-l border-hair bg-wash px-5 py-3"
    >
      <label className="flex items-center gap-2 text-sm text-soft">
        Email to
        <select
          className="min-w-0 flex-1 border border-hair bg-sheet px-2 py-1 text-ink"
          value={shown}
          onChange={(event) => onShow(Number(event.target.value))}
        >
          {parties.map(({ name, email }, i) => (
            <option key={i} value={i}>
              {name || email || 'no person yet'}
            </option>
          ))}
        </select>
      </label>
      {preview && to && (
        <article lang={preview.language} className="mt-3 border border-hair bg-sheet px-5 py-4">
          <p className="text-sm text-soft">
            to {to.email || 'no address yet'}, <span lang="en">in {languageName(preview.language)}</span>
          </p>
          <h3 className="mt-1 text-base font-semibold wrap-anywhere">{preview.subject}</h3>
          {preview.paragraphs.map((paragraph, i) => (
            <p key={i} className="mt-3 wrap-anywhere whitespace-pre-line">
              {paragraph}
            </p>
          ))}
          {preview.button && (
            <p className="mt-4">
              <span className="inline-block bg-petrol px-4 py-2 text-on-petrol">{preview.button}</span>
            </p>
          )}
        </article>
      )}
    </section>
  )
}
