import { useMutation } from '@tanstack/react-query'
import { Files } from 'lucide-react'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import * as v from 'valibot'
import { call, problemText } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { bringFiles, type Brought, PAGE_FILES, titleOf } from '#web/areas/templates/form/bring-files.ts'
import { Dialog } from '#web/parts/dialog.tsx'
import { filled } from '#web/parts/form/entries.ts'
import { RadioField, TextField } from '#web/parts/form/fields.tsx'
import { Form } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
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

const startSchema = v.object({
  title: filled('Enter a title.'),
  how: v.picklist(['new', 'like', 'version']),
})

function Start({
  brought,
  shelf,
}: {
  readonly brought: readonly [Brought, ...Brought[]]
  readonly shelf: string | null
}) {
  const navigate = useNavigate()
  const [first] = brought
  const known = first.known[0]
  const entry = useEntry({
    schema: startSchema,
    start: { title: titleOf(first.name, 'Form'), how: known ? 'version' : 'new' },
    async send({ how, title }) {
      if (how === 'version' && known)
        return `/templates/${known.template}?replace=${first.file}&of=${known.file}`
      const like = how === 'like' && known ? { template: known.template, file: known.file } : undefined
      const files = brought.map(({ file }) => file)
      const { id } = await call('startForm', { body: { title, shelf, files, ...(like ? { like } : {}) } })
      return `/templates/${id}`
    },
    onDone: (to) => void navigate(to),
  })
  const how = entry.value('how')
  const report = brought.flatMap(({ name, report: own }) => own.map((remark) => ({ ...remark, name })))
  const pages = brought.reduce((sum, each) => sum + each.pages.length, 0)
  return (
    <Form
      entry={entry}
      submit={how === 'version' ? 'Compare and replace' : 'Create form'}
      className="text-sm"
    >
      <p>
        {plural(pages, 'page')}
        {first.fields.length > 0 && `, with ${plural(first.fields.length, 'field')} of their own`}.
      </p>
      {known && (
        <RadioField
          of={entry.at('how')}
          options={[
            ['version', `Another version of “${known.name}”: it replaces the pages there`],
            ['like', `A new form with the places of “${known.name}”`],
            ['new', 'A new form with no places yet'],
          ]}
        />
      )}
      {how !== 'version' && <TextField label="Title" of={entry.at('title')} autoFocus maxLength={200} />}
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
    </Form>
  )
}
