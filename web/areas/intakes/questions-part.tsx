import { ArrowDown, ArrowUp, FilePlus, X } from 'lucide-react'
import { useState } from 'react'
import { type Language, LANGUAGES, ownName } from '#core/languages/language.ts'
import * as edit from '#core/intake/edit.ts'
import { type IntakeForm, questionsOf, saidIn, textKey } from '#core/intake/form.ts'
import { Button } from '#web/parts/button.tsx'
import { Input, Labelled, Select } from '#web/parts/input.tsx'
import { NotAsked } from './not-asked.tsx'
import type { PartProps } from './part-props.ts'
import { Preview } from './preview.tsx'
import { QuestionForm } from './question-form.tsx'
import { TextOf, type Texts, textsOf } from './texts.tsx'

/** What is asked, page by page as it will be read, with what the machine does in its margin; one question in full beside it. */
export function QuestionsPart({
  chosen,
  onChoose,
  ...part
}: PartProps & {
  readonly chosen: string | null
  readonly onChoose: (question: string | null) => void
}) {
  const { intake, form, draft, problems, editable } = part
  const [language, setLanguage] = useState<Language>(form.language)
  const { outline } = intake
  const question = questionsOf(form).find(({ id }) => id === chosen)
  const texts = textsOf(form, draft, language)
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
      <div className="min-h-0 overflow-auto px-4 pt-3 pb-10">
        <Beginning form={form} texts={texts} editable={editable} onLanguage={setLanguage} />
        {problems
          .filter((each) => each.question === null)
          .map(({ message }) => (
            <p key={message} className="mt-2 border-l-2 border-brick pl-3 text-sm">
              {message}
            </p>
          ))}
        {form.pages.map((page, place) => (
          <Page key={page.id} {...{ page, place, part, texts, chosen, onChoose }} />
        ))}
        {editable && (
          <p className="mt-2">
            <Button kind="quiet" onClick={() => draft.change(edit.askForFile)}>
              <FilePlus size={14} /> Ask for files
            </Button>
          </p>
        )}
        <NotAsked {...part} onAsk={onChoose} />
      </div>
      <div className="min-h-0 overflow-auto border-l border-hair px-5 pt-3 pb-10">
        {question ? (
          <QuestionForm
            key={`${question.id} ${language}`}
            {...{ question, form, outline, texts, draft, editable }}
            problem={problems.find((told) => told.question === question.id)?.message ?? null}
            onClose={() => onChoose(null)}
          />
        ) : (
          <Preview form={form} outline={outline} language={language} onLanguage={setLanguage} />
        )}
      </div>
    </div>
  )
}

/** What stands before the first question, and the language that is looked at. */
function Beginning({
  form,
  texts,
  editable,
  onLanguage,
}: {
  readonly form: IntakeForm
  readonly texts: Texts
  readonly editable: boolean
  readonly onLanguage: (language: Language) => void
}) {
  return (
    <fieldset disabled={!editable} className="flex flex-col gap-3">
      <div className="flex items-end gap-3">
        <div className="min-w-0 flex-1">
          <TextOf
            texts={texts}
            label="Title"
            name={textKey.title}
            own={form.title}
            most={200}
            set={(title) => (before) => ({ ...before, title })}
          />
        </div>
        <Labelled label="Texts in">
          <Select
            value={texts.language}
            onChange={(event) => onLanguage(LANGUAGES.find((each) => each === event.target.value)!)}
          >
            {LANGUAGES.map((each) => (
              <option key={each} value={each}>
                {ownName(each)}
                {each === form.language ? ' (original)' : ''}
              </option>
            ))}
          </Select>
        </Labelled>
      </div>
      <TextOf
        texts={texts}
        label="Introduction"
        name={textKey.introduction}
        own={form.introduction}
        most={4000}
        lines={2}
        set={(introduction) => (before) => ({ ...before, introduction })}
      />
    </fieldset>
  )
}

function Page({
  page,
  place,
  part: { form, draft, problems, editable },
  texts,
  chosen,
  onChoose,
}: {
  readonly page: IntakeForm['pages'][number]
  readonly place: number
  readonly part: PartProps
  readonly texts: Texts
  readonly chosen: string | null
  readonly onChoose: (question: string | null) => void
}) {
  const { id, title, questions } = page
  const rename = texts.write(
    textKey.page(id),
    (named) => (before) => edit.withPage(before, id, { title: named }),
  )
  return (
    <section className="mt-4" aria-label={title || `Page ${place + 1}`}>
      <div className="flex items-center gap-2 border-b border-hair pb-1">
        <span className="text-sm text-soft tabular-nums">{place + 1}</span>
        <Input
          aria-label={`Title of page ${place + 1}`}
          className="border-transparent bg-transparent font-serif font-semibold"
          placeholder={title || 'Untitled page'}
          maxLength={300}
          disabled={!editable}
          value={texts.said(textKey.page(id), title)}
          onChange={(event) => rename(event.target.value)}
        />
        {place > 0 && editable && (
          <button
            className="shrink-0 text-xs text-petrol hover:underline"
            onClick={() => draft.change((before) => edit.joinPage(before, id))}
          >
            Join to previous page
          </button>
        )}
      </div>
      {questions.length === 0 && <p className="py-1 text-sm text-soft">No questions on this page.</p>}
      <ol>
        {questions.map((each) => (
          <QuestionLine
            key={each.id}
            label={saidIn(form, texts.language, textKey.label(each.id), each.label)}
            note={each.when.trim() ? `if ${each.when}` : each.required ? '' : 'optional'}
            problem={problems.find((told) => told.question === each.id)?.message ?? null}
            chosen={each.id === chosen}
            editable={editable}
            onChoose={() => onChoose(each.id)}
            onMove={(by) => draft.change((before) => edit.moveQuestion(before, each.id, by))}
            onDrop={() => {
              if (each.id === chosen) onChoose(null)
              draft.change((before) => edit.leaveOut(before, each.id))
            }}
          />
        ))}
      </ol>
    </section>
  )
}

function QuestionLine({
  label,
  note,
  problem,
  chosen,
  editable,
  onChoose,
  onMove,
  onDrop,
}: {
  readonly label: string
  readonly note: string
  readonly problem: string | null
  readonly chosen: boolean
  readonly editable: boolean
  readonly onChoose: () => void
  readonly onMove: (by: 1 | -1) => void
  readonly onDrop: () => void
}) {
  const tool = 'rounded-sm p-1 text-soft hover:bg-wash hover:text-ink'
  return (
    <li
      className={`flex items-center gap-1 border-b border-hair/60 ${chosen ? 'bg-petrol-wash' : 'hover:bg-wash'}`}
    >
      <button
        className="min-w-0 flex-1 py-1.5 pl-7 text-left"
        aria-pressed={chosen}
        onClick={onChoose}
        onKeyDown={(event) => {
          const by = { ArrowUp: -1 as const, ArrowDown: 1 as const }[event.key]
          if (!by || !event.altKey || !editable) return
          event.preventDefault()
          onMove(by)
        }}
      >
        <span className="block truncate">{label}</span>
        {problem && <span className="block text-sm text-brick">{problem}</span>}
      </button>
      <span className="max-w-44 truncate text-xs text-soft italic" title={note}>
        {note}
      </span>
      {editable && (
        <>
          <button className={tool} aria-label={`${label}: move up`} onClick={() => onMove(-1)}>
            <ArrowUp size={14} />
          </button>
          <button className={tool} aria-label={`${label}: move down`} onClick={() => onMove(1)}>
            <ArrowDown size={14} />
          </button>
          <button className={tool} aria-label={`${label}: do not ask`} onClick={onDrop}>
            <X size={14} />
          </button>
        </>
      )}
    </li>
  )
}
