import type { Signing } from '#contract/signing.ts'
import { useWords } from './words.tsx'

/** What was asked from here, with the answers. */
export function AskedList({ signing }: { readonly signing: Signing }) {
  const { say } = useWords()
  const { questions, from } = signing
  if (questions.length === 0) return null
  return (
    <section aria-label={say('ask.list')} className="mt-6">
      <h2 className="text-lg">{say('ask.list')}</h2>
      <ul>
        {questions.map((asked) => (
          <li key={asked.id} className="mt-2 border-l-2 border-hair pl-3 wrap-anywhere">
            {asked.passage && (
              <p className="text-sm text-soft">{say('ask.about', { passage: asked.passage })}</p>
            )}
            <p>{asked.text}</p>
            <p className={asked.answer === null ? 'text-sm text-soft' : 'font-semibold'}>
              {asked.answer === null
                ? say('ask.waiting')
                : say('ask.answered', { from, answer: asked.answer })}
            </p>
          </li>
        ))}
      </ul>
    </section>
  )
}
