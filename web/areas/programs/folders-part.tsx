import { FolderPlus } from 'lucide-react'
import * as v from 'valibot'
import { call, useAnswer, useCall } from '#web/api/client.ts'
import { DialogButton } from '#web/parts/dialog-button.tsx'
import { filled, text } from '#web/parts/form/entries.ts'
import { SelectField, TextField } from '#web/parts/form/fields.tsx'
import { Form } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import { Failed, Loading } from '#web/parts/states.tsx'
import { SureButton } from '#web/parts/sure-button.tsx'

/** Folders that documents are filed to as a next step of their agreements. */
export function FoldersPart() {
  const folders = useAnswer('folders')
  const drop = useCall('dropFolder')
  if (folders.isPending) return <Loading />
  if (folders.isError) return <Failed error={folders.error} retry={() => void folders.refetch()} />
  return (
    <section aria-label="Filing folders" className="mt-8 border-t border-hair pt-4">
      <div className="flex items-start gap-4">
        <div>
          <h2 className="text-lg">Filing folders</h2>
          <p className="max-w-2xl text-sm text-soft">
            Where next steps file executed documents: a folder of this server, or one over HTTP (WebDAV).
          </p>
        </div>
        <DialogButton
          className="ml-auto"
          title="Add a filing folder"
          label={
            <>
              <FolderPlus size={14} /> Add folder
            </>
          }
          content={(close) => <FolderForm onClose={close} />}
        />
      </div>
      {folders.data.length > 0 && (
        <ul className="mt-3 text-sm" aria-label="Filing folders">
          {folders.data.map(({ id, name, kind, address, userName }) => (
            <li key={id} className="flex items-baseline gap-3 border-b border-hair/60 py-1.5">
              <span className="w-40 shrink-0 truncate font-semibold">{name}</span>
              <code className="min-w-0 flex-1 truncate text-xs" title={address}>
                {address}
              </code>
              <span className="text-soft">
                {kind === 'local' ? 'on this server' : userName ? `as ${userName}` : 'over HTTP'}
              </span>
              <SureButton
                label="Remove folder"
                sure="Remove: nothing is filed there any more"
                onSure={() => drop.mutate({ params: { id } })}
              />
            </li>
          ))}
        </ul>
      )}
    </section>
  )
}

const folderSchema = v.object({
  name: filled('Enter a name.'),
  kind: v.picklist(['local', 'webdav']),
  address: filled('Enter where the folder is.', 1000),
  userName: text(200),
  secret: v.string(),
})

function FolderForm({ onClose }: { readonly onClose: () => void }) {
  const entry = useEntry({
    schema: folderSchema,
    start: { name: '', kind: 'local', address: '', userName: '', secret: '' },
    send: (body) => call('makeFolder', { body }),
    onDone: onClose,
  })
  const local = entry.value('kind') === 'local'
  return (
    <Form entry={entry} submit="Check and add folder" onClose={onClose}>
      <TextField label="Name" of={entry.at('name')} autoFocus maxLength={200} />
      <SelectField
        label="Kind"
        of={entry.at('kind')}
        options={[
          ['local', 'on this server'],
          ['webdav', 'over HTTP (WebDAV)'],
        ]}
      />
      <TextField
        label={local ? 'Path' : 'Address'}
        hint={local ? 'Below the folder that the server files to (setting BREVAN_FILED).' : undefined}
        of={entry.at('address')}
        maxLength={1000}
        placeholder={local ? 'sales' : 'https://'}
      />
      {!local && (
        <div className="grid grid-cols-2 gap-3">
          <TextField label="User name" of={entry.at('userName')} autoComplete="off" />
          <TextField label="Password" of={entry.at('secret')} type="password" autoComplete="new-password" />
        </div>
      )}
    </Form>
  )
}
