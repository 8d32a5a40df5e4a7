import { ArrowDown, ArrowUp, FilePlus, X } from 'lucide-react'
import { useState } from 'react'
import { type Language, LANGUAGES } from '#core/languages/language.ts'
import * as edit from '#core/intake/edit.ts'
import { type IntakeForm, questionsOf, saidIn, textKey } from '#core/intake/form.ts'
import { LANGUAGE_NAMES } from '#web/areas/signing/language-menu.tsx'
import { Button } from '#web/parts/button.tsx'
import { Input, Labelled, Select, TextArea } from '#web/parts/input.tsx'
import type { PartProps } from './part-props.ts'
import { Preview } from './preview.tsx'
import { QuestionForm } from './question-form.tsx'

/** What is asked, page by page as it will be read, with what the machine does in its margin; one question in full beside it. */
export function QuestionsPart({
  intake,
  form,
  draft,
  problems,
  editable,
  chosen,
  onChoose: setChosen,
}: PartProps & {
  readonly chosen: string | null
  readonly onChoose: (question: string | null) => void
}) {
  const [language, setLanguage] = useState<Language>(form.language)
  const { outline } = intake
  const question = questionsOf(form).find(({ id }) => id === chosen)
  const text = (key: string, own: string) => saidIn(form, language, key, own)
  /** Writes a text in the language that is looked at. */
  const write = (key: string, set: (text: string) => (form: IntakeForm) => IntakeForm) => (value: string) =>
    draft.change(
      language === form.language
        ? set(value)
        : (before) => ({
            ...before,
            inOther: { ...before.inOther, [language]: { ...before.inOther[language], [key]: value } },
          }),
      `${language} ${key}`,
    )
  const said = (key: string, own: string) =>
    language === form.language ? own : (form.inOther[language]?.[key] ?? '')
  const unasked = edit.unasked(form, outline)
  const whole = problems.filter((each) => each.question === null)
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
      <div className="min-h-0 overflow-auto px-4 pt-3 pb-10">
        <fieldset disabled={!editable} className="flex flex-col gap-3">
          <div className="flex items-end gap-3">
            <div className="min-w-0 flex-1">
              <Labelled label="Title">
                <Input
                  value={said('title', form.title)}
                  placeholder={form.title}
                  maxLength={200}
                  onChange={(event) =>
                    write(textKey.title, (title) => (before) => ({ ...before, title }))(event.target.value)
                  }
                />
              </Labelled>
            </div>
            <Labelled label="Texts in">
              <Select
                value={language}
                onChange={(event) => setLanguage(LANGUAGES.find((each) => each === event.target.value)!)}
              >
                {LANGUAGES.map((each) => (
                  <option key={each} value={each}>
                    {LANGUAGE_NAMES[each]}
                    {each === form.language ? ', its own' : ''}
                  </option>
                ))}
              </Select>
            </Labelled>
          </div>
          <Labelled label="What stands before the first question">
            <TextArea
              rows={2}
              maxLength={4000}
              value={said('introduction', form.introduction)}
              placeholder={form.introduction}
              onChange={(event) =>
                write(textKey.introduction, (introduction) => (before) => ({ ...before, introduction }))(
                  event.target.value,
                )
              }
            />
          </Labelled>
        </fieldset>
        {whole.map(({ message }) => (
          <p key={message} className="mt-2 border-l-2 border-brick pl-3 text-sm">
            {message}
          </p>
        ))}
        {form.pages.map((page, place) => (
          <section key={page.id} className="mt-4" aria-label={page.title || `Page ${place + 1}`}>
            <div className="flex items-center gap-2 border-b border-hair pb-1">
              <span className="text-sm text-soft tabular-nums">{place + 1}</span>
              <Input
                aria-label={`Title of page ${place + 1}`}
                className="border-transparent bg-transparent font-serif font-semibold"
                placeholder={page.title || 'without a title'}
                maxLength={300}
                disabled={!editable}
                value={said(textKey.page(page.id), page.title)}
                onChange={(event) =>
                  write(
                    textKey.page(page.id),
                    (title) => (before) => edit.withPage(before, page.id, { title }),
                  )(event.target.value)
                }
              />
              {place > 0 && editable && (
                <button
                  className="shrink-0 text-xs text-petrol hover:underline"
                  onClick={() => draft.change((before) => edit.joinPage(before, page.id))}
                >
                  to the page before
                </button>
              )}
            </div>
            {page.questions.length === 0 && <p className="py-1 text-sm text-soft">Nothing is asked here.</p>}
            <ol>
              {page.questions.map((each) => (
                <QuestionLine
                  key={each.id}
                  label={text(textKey.label(each.id), each.label)}
                  note={each.when.trim() ? `when ${each.when}` : each.required ? '' : 'not required'}
                  problem={problems.find((told) => told.question === each.id)?.message ?? null}
                  chosen={each.id === chosen}
                  editable={editable}
                  onChoose={() => setChosen(each.id)}
                  onMove={(by) => draft.change((before) => edit.moveQuestion(before, each.id, by))}
                  onDrop={() => {
                    if (each.id === chosen) setChosen(null)
                    draft.change((before) => edit.leaveOut(before, each.id))
                  }}
                />
              ))}
            </ol>
          </section>
        ))}
        {editable && (
          <p className="mt-2">
            <Button kind="quiet" onClick={() => draft.change(edit.askForFile)}>
              <FilePlus size={14} /> Ask for files
            </Button>
          </p>
        )}
        {(form.leftOut.length > 0 || unasked.length > 0) && (
          <section aria-label="Not asked for" className="mt-5">
            <h2 className="border-b border-hair pb-1 font-serif text-base font-semibold">Not asked for</h2>
            <ul>
              {[...unasked.map(({ name }) => ({ field: name, value: null })), ...form.leftOut].map(
                ({ field, value }) => {
                  const label = outline.find(({ name }) => name === field)?.label ?? field
                  return (
                    <li key={field} className="flex items-center gap-3 border-b border-hair/60 py-1 text-sm">
                      <span className="min-w-0 flex-1 truncate">
                        {label} <code className="text-xs text-soft">{field}</code>
                      </span>
                      <Input
                        aria-label={`${label} for all`}
                        className="max-w-48"
                        placeholder="none"
                        maxLength={4000}
                        disabled={!editable}
                        value={value ?? ''}
                        onChange={(event) =>
                          draft.change(
                            (before) => ({
                              ...before,
                              leftOut: [
                                ...before.leftOut.filter((each) => each.field !== field),
                                { field, value: event.target.value },
                              ],
                            }),
                            `left ${field}`,
                          )
                        }
                      />
                      {editable && (
                        <button
                          className="text-petrol underline"
                          onClick={() => {
                            draft.change((before) => edit.askAgain(before, outline, field))
                            setChosen(field)
                          }}
                        >
                          Ask
                        </button>
                      )}
                    </li>
                  )
                },
              )}
            </ul>
            <p className="mt-1 text-xs text-soft">All answers get the value that stands here.</p>
          </section>
        )}
      </div>
      <div className="min-h-0 overflow-auto border-l border-hair px-5 pt-3 pb-10">
        {question ? (
          <QuestionForm
            key={`${question.id} ${language}`}
            question={question}
            form={form}
            outline={outline}
            language={language}
            said={said}
            write={write}
            draft={draft}
            editable={editable}
            problem={problems.find((told) => told.question === question.id)?.message ?? null}
            onClose={() => setChosen(null)}
          />
        ) : (
          <Preview form={form} outline={outline} language={language} onLanguage={setLanguage} />
        )}
      </div>
    </div>
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
          <button className={tool} aria-label={`${label}: further up`} onClick={() => onMove(-1)}>
            <ArrowUp size={14} />
          </button>
          <button className={tool} aria-label={`${label}: further down`} onClick={() => onMove(1)}>
            <ArrowDown size={14} />
          </button>
          <button className={tool} aria-label={`${label}: ask no more`} onClick={onDrop}>
            <X size={14} />
          </button>
        </>
      )}
    </li>
  )
}
