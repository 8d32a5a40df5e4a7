import { useMay } from '#web/frame/person.ts'
import { useState } from 'react'
import { Link } from 'react-router'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { address, call } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import type { Change } from '#web/areas/templates/draft/template-draft.ts'
import { CompareView } from '#web/areas/templates/panels/compare-view.tsx'
import type { SaveState, Theirs } from '#web/drafts/draft-store.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { NoteForm } from '#web/parts/form/note-form.tsx'
import { Input } from '#web/parts/input.tsx'
import { plural, When } from '#web/parts/signs/when.tsx'

/** Where else a template leads: a new agreement, its next steps, and itself as a document. */
export function Elsewhere({
  id,
  isForm,
  makes,
}: {
  readonly id: string
  readonly isForm: boolean
  /** An edition is published, and its shelf open to whoever looks. */
  readonly makes: boolean
}) {
  const may = useMay('runs')
  return (
    <>
      {may && makes && (
        <Link
          to={`/agreements/new?of=${id}`}
          className="text-sm whitespace-nowrap text-petrol hover:underline"
        >
          New agreement
        </Link>
      )}
      <Link
        to={`/templates/${id}/afterwards`}
        className="text-sm whitespace-nowrap text-petrol hover:underline"
      >
        Next steps
      </Link>
      {!isForm && (
        <a
          className="text-sm text-petrol hover:underline"
          href={address('exportTemplate', { params: { id } })}
          download
        >
          DOCX
        </a>
      )}
    </>
  )
}

/** How the draft stands with the server. */
export function Saved({ save }: { readonly save: SaveState }) {
  if (save.kind === 'fault')
    return (
      <span role="alert" className="line-clamp-2 max-w-60 text-brick" title={save.text}>
        {save.text}
      </span>
    )
  return (
    <span role="status" className="whitespace-nowrap">
      {save.kind === 'saved' ? (
        <>
          Saved <When at={save.at} />
        </>
      ) : save.kind === 'saving' ? (
        'Saving …'
      ) : (
        'Not saved yet'
      )}
    </span>
  )
}

/** The template's title; whoever may edit it renames it where it stands. */
export function Title({ title, change }: { readonly title: string; readonly change: Change | null }) {
  const [text, setText] = useState<string | null>(null)
  const done = (keep: boolean) => {
    const wanted = text?.trim()
    if (keep && wanted && wanted !== title) change?.((before) => ({ ...before, title: wanted }), 'title')
    setText(null)
  }
  if (text === null)
    return (
      <h1 className="max-w-64 text-lg" title={title}>
        {change ? (
          <button
            className="block max-w-full truncate hover:underline"
            aria-label={`${title}, rename`}
            onClick={() => setText(title)}
          >
            {title}
          </button>
        ) : (
          <span className="block truncate">{title}</span>
        )}
      </h1>
    )
  return (
    <Input
      autoFocus
      aria-label="Title of the template"
      className="max-w-64"
      maxLength={200}
      value={text}
      onFocus={(event) => event.target.select()}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => done(true)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') done(true)
        if (event.key === 'Escape') done(false)
      }}
    />
  )
}

/** Publishes the draft as an edition. */
export function Publish({
  template,
  open,
  setOpen,
  settle,
  faults,
}: {
  readonly open: boolean
  readonly setOpen: (open: boolean) => void
  readonly template: Answer<Api['template']>
  readonly settle: () => Promise<number | null>
  readonly faults: number
}) {
  const say = useNotice()
  const latest = template.editions[0]?.number ?? 0
  const publish = async (note: string) => {
    const version = await settle()
    if (version === null) throw new Error('The draft could not be saved, so it was not published.')
    return call('publish', { params: { id: template.id }, body: { version, note } })
  }
  return (
    <>
      <Button
        kind="main"
        disabled={faults > 0}
        title={faults > 0 ? `Fix ${plural(faults, 'error')} first: see Checks` : undefined}
        onClick={() => setOpen(true)}
      >
        Publish edition {latest + 1}
      </Button>
      <Dialog title={`Publish edition ${latest + 1}`} open={open} onClose={() => setOpen(false)}>
        <NoteForm
          label="What is new in it"
          submit={`Publish edition ${latest + 1}`}
          onClose={() => setOpen(false)}
          send={publish}
          onDone={({ number, cases: { failed } }) => {
            setOpen(false)
            say(
              failed.length
                ? `Edition ${number} is published. ${plural(failed.length, 'test case')} gave another wording: ${failed.join(', ')}.`
                : `Edition ${number} is published. New runs use it; agreements made before keep theirs.`,
              failed.length ? 'fault' : 'done',
            )
          }}
        >
          <p className="text-sm">
            An edition never changes. New runs use it; agreements made before keep theirs.
          </p>
        </NoteForm>
      </Dialog>
    </>
  )
}

/** A colleague saved since: nothing of either is lost, and one of the two goes on as the draft. */
export function Conflict({
  theirs,
  onSettle,
}: {
  readonly theirs: Theirs<TemplateContent>
  readonly onSettle: (keep: 'mine' | 'theirs') => void
}) {
  const [open, setOpen] = useState(false)
  const { content } = useStudio()
  return (
    <div
      role="alert"
      className="flex items-center gap-3 border-b border-brick bg-brick-wash px-4 py-2 text-sm"
    >
      <span className="flex-1">
        {theirs.by} saved this draft <When at={theirs.at} />, after you opened it. Yours is not saved; nothing
        of either is lost.
      </span>
      <Button onClick={() => setOpen(true)}>Compare</Button>
      <Button onClick={() => onSettle('theirs')}>Use their draft</Button>
      <Button kind="danger" onClick={() => onSettle('mine')}>
        Overwrite with my draft
      </Button>
      <Dialog title={`What ${theirs.by} saved, and yours`} open={open} onClose={() => setOpen(false)}>
        <CompareView before={theirs.content} after={content} names={['theirs', 'yours']} />
      </Dialog>
    </div>
  )
}
