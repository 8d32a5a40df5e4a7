import { FilePlus, X } from 'lucide-react'
import { useState } from 'react'
import type { AnsweredFile } from '#core/intake/answers.ts'
import { call, problemText } from '#web/api/client.ts'
import { useWords } from '#web/areas/signing/words.tsx'
import type { QuestionProps } from './question-props.ts'

/** Files that are handed over: each goes to the server at once, and is kept with the answer. */
export function FilesQuestion({
  question,
  answer,
  answering,
  problems,
  onAnswer,
}: Pick<QuestionProps, 'question' | 'answer' | 'answering' | 'problems' | 'onAnswer'>) {
  const { say } = useWords()
  const [busy, setBusy] = useState(false)
  const [fault, setFault] = useState<string | null>(null)
  const files = (Array.isArray(answer) ? answer : []) as readonly AnsweredFile[]
  const take = async (chosen: readonly File[]) => {
    setBusy(true)
    setFault(null)
    let all = files
    try {
      for (const file of chosen) {
        const taken = await call('answerWithFile', {
          params: { token: await answering.begin() },
          query: { name: file.name.slice(-200), question: question.id },
          body: file,
        })
        all = [...all.filter(({ sha256 }) => sha256 !== taken.sha256), taken]
      }
    } catch (error) {
      setFault(problemText(error))
    }
    // Those that arrived before one was refused stay.
    if (all !== files) onAnswer(all)
    setBusy(false)
  }
  return (
    <div>
      <ul>
        {files.map((file) => (
          <li key={file.sha256} className="flex min-h-11 items-center gap-2">
            <span className="min-w-0 flex-1 truncate">{file.name}</span>
            <span className="text-sm text-soft tabular-nums">
              {Math.max(1, Math.round(file.size / 1000))} kB
            </span>
            <button
              type="button"
              className="flex size-11 items-center justify-center text-soft hover:text-ink"
              aria-label={say('form.dropFile', { name: file.name })}
              onClick={() => {
                const rest = files.filter((each) => each !== file)
                onAnswer(rest.length ? rest : null)
              }}
            >
              <X size={16} aria-hidden />
            </button>
          </li>
        ))}
      </ul>
      <label className="relative inline-flex min-h-11 cursor-pointer items-center gap-1.5 text-petrol underline focus-within:outline-2">
        <FilePlus size={16} aria-hidden /> {say(busy ? 'form.fileBusy' : 'form.addFile')}
        <input
          type="file"
          multiple
          disabled={busy}
          className="absolute inset-0 cursor-pointer opacity-0"
          aria-invalid={problems.length > 0}
          onChange={(event) => {
            const chosen = [...(event.target.files ?? [])]
            event.target.value = ''
            void take(chosen)
          }}
        />
      </label>
      <p className="text-sm text-soft">{say('form.filePlain')}</p>
      {fault && (
        <p role="alert" className="mt-1 text-sm text-brick">
          {fault}
        </p>
      )}
    </div>
  )
}
