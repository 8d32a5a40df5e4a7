import { useMutation } from '@tanstack/react-query'
import { Files } from 'lucide-react'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { call, problemText } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { bringFiles, type Brought, PAGE_FILES, titleOf } from '#web/areas/templates/form/bring-files.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Input, Labelled } from '#web/parts/input.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { UploadButton } from '#web/parts/upload-button.tsx'

/** Brings in pages that are there already; several files become one form, one behind the other. */
export function StartForm({ shelf }: { readonly shelf: string | null }) {
  const say = useNotice()
  const [brought, setBrought] = useState<readonly [Brought, ...Brought[]] | null>(null)
  const [at, setAt] = useState<{ readonly now: number; readonly of: number } | null>(null)
  const bring = useMutation({
    mutationFn: (files: readonly [File, ...File[]]) =>
      bringFiles(files, (now) => setAt({ now, of: files.length })),
    onSuccess: setBrought,
    onError: (error) => say(problemText(error), 'fault'),
    onSettled: () => setAt(null),
  })
  return (
    <>
      <UploadButton
        label="Pages of the form"
        accept={PAGE_FILES}
        multiple
        busy={bring.isPending}
        onFiles={(files) => bring.mutate(files)}
      >
        <Files size={14} /> {at && at.of > 1 ? `Reading ${at.now} of ${at.of}` : 'Form from pages'}
      </UploadButton>
      <Dialog title="A form of these pages" open={brought !== null} onClose={() => setBrought(null)}>
        {brought && <Start brought={brought} shelf={shelf} />}
      </Dialog>
    </>
  )
}

function Start({
  brought,
  shelf,
}: {
  readonly brought: readonly [Brought, ...Brought[]]
  readonly shelf: string | null
}) {
  const navigate = useNavigate()
  const [first] = brought
  const [title, setTitle] = useState(titleOf(first.name, 'Form'))
  const known = first.known[0]
  const [how, setHow] = useState<'new' | 'like' | 'version'>(known ? 'version' : 'new')
  const start = useMutation({
    mutationFn: async () =>
      how === 'version' && known
        ? `/templates/${known.template}?replace=${first.file}&of=${known.file}`
        : `/templates/${
            (
              await call('startForm', {
                body: {
                  title: title.trim(),
                  shelf,
                  files: brought.map(({ file }) => file),
                  ...(how === 'like' && known
                    ? { like: { template: known.template, file: known.file } }
                    : {}),
                },
              })
            ).id
          }`,
    onSuccess: (to) => void navigate(to),
  })
  const report = brought.flatMap(({ name, report: own }) => own.map((remark) => ({ ...remark, name })))
  const pages = brought.reduce((sum, each) => sum + each.pages.length, 0)
  const choices = known
    ? ([
        ['version', `It is another version of “${known.name}”: put it in the place of the pages there`],
        ['like', `A new form, with the places of “${known.name}”`],
        ['new', 'A new form with nothing on it'],
      ] as const)
    : []
  return (
    <form
      className="flex flex-col gap-3 text-sm"
      onSubmit={(event) => {
        event.preventDefault()
        if (title.trim()) start.mutate()
      }}
    >
      <p>
        {plural(pages, 'page')}
        {first.fields.length > 0 && `, with ${plural(first.fields.length, 'field')} of their own`}.
      </p>
      {choices.map(([which, label]) => (
        <label key={which} className="flex items-baseline gap-2">
          <input type="radio" name="how" checked={how === which} onChange={() => setHow(which)} />
          {label}
        </label>
      ))}
      {how !== 'version' && (
        <Labelled label="Title">
          <Input autoFocus maxLength={200} value={title} onChange={(event) => setTitle(event.target.value)} />
        </Labelled>
      )}
      {report.length > 0 && (
        <div>
          <p className="text-xs text-soft">What is not seen on the pages does not come along:</p>
          <ul className="mt-1 max-h-32 list-inside list-disc overflow-auto text-xs">
            {report.map(({ what, count, name }, i) => (
              <li key={i}>
                {what}
                {count > 1 && `, ${count} times`}
                {brought.length > 1 && ` (${name})`}
              </li>
            ))}
          </ul>
        </div>
      )}
      {start.isError && (
        <p role="alert" className="text-brick">
          {problemText(start.error)}
        </p>
      )}
      <div className="flex justify-end">
        <Button kind="main" type="submit" disabled={!title.trim()} busy={start.isPending}>
          {how === 'version' ? 'Compare and take' : 'Start placing'}
        </Button>
      </div>
    </form>
  )
}
