import { FolderPlus } from 'lucide-react'
import { useState } from 'react'
import { useAnswer, useCall } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { FormEnd } from '#web/parts/form-end.tsx'
import { Input, Labelled, Select } from '#web/parts/input.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { SureButton } from '#web/parts/sure-button.tsx'

/** Places that documents are filed to after their agreements. */
export function FoldersPart() {
  const folders = useAnswer('folders')
  const drop = useCall('dropFolder')
  const [adding, setAdding] = useState(false)
  if (folders.isPending) return <Loading />
  if (folders.isError) return <Failed error={folders.error} retry={() => void folders.refetch()} />
  return (
    <section aria-label="Folders" className="mt-8 border-t border-hair pt-4">
      <div className="flex items-start gap-4">
        <div>
          <h2 className="text-lg">Folders</h2>
          <p className="max-w-2xl text-sm text-soft">
            Where documents can be filed once their agreements are executed: on this server, or over HTTP
            (WebDAV).
          </p>
        </div>
        <Button className="ml-auto" onClick={() => setAdding(true)}>
          <FolderPlus size={14} /> Add a folder
        </Button>
      </div>
      {folders.data.length > 0 && (
        <ul className="mt-3 text-sm" aria-label="Folders">
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
                label="File nothing there"
                sure="File nothing there any more"
                onSure={() => drop.mutate({ params: { id } })}
              />
            </li>
          ))}
        </ul>
      )}
      <Dialog title="Add a folder" open={adding} onClose={() => setAdding(false)}>
        <FolderForm onClose={() => setAdding(false)} />
      </Dialog>
    </section>
  )
}

function FolderForm({ onClose }: { readonly onClose: () => void }) {
  const [name, setName] = useState('')
  const [kind, setKind] = useState<'local' | 'webdav'>('local')
  const [address, setAddress] = useState('')
  const [userName, setUserName] = useState('')
  const [secret, setSecret] = useState('')
  const make = useCall('makeFolder', onClose)
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault()
        make.mutate({ body: { name, kind, address, userName, secret } })
      }}
    >
      <Labelled label="What it is called">
        <Input autoFocus maxLength={200} value={name} onChange={(event) => setName(event.target.value)} />
      </Labelled>
      <Labelled label="Where it is">
        <Select
          value={kind}
          onChange={(event) => setKind(event.target.value === 'webdav' ? 'webdav' : 'local')}
        >
          <option value="local">on this server</option>
          <option value="webdav">over HTTP (WebDAV)</option>
        </Select>
      </Labelled>
      <Labelled
        label={kind === 'local' ? 'Path' : 'Address'}
        hint={kind === 'local' ? 'Below the folder that the server files to (BREVAN_FILED).' : undefined}
      >
        <Input
          maxLength={1000}
          placeholder={kind === 'local' ? 'sales' : 'https://'}
          value={address}
          onChange={(event) => setAddress(event.target.value)}
        />
      </Labelled>
      {kind === 'webdav' && (
        <div className="grid grid-cols-2 gap-3">
          <Labelled label="Name there">
            <Input
              autoComplete="off"
              value={userName}
              onChange={(event) => setUserName(event.target.value)}
            />
          </Labelled>
          <Labelled label="Password">
            <Input
              type="password"
              autoComplete="new-password"
              value={secret}
              onChange={(event) => setSecret(event.target.value)}
            />
          </Labelled>
        </div>
      )}
      <FormEnd
        label="Try it and add it"
        busy={make.isPending}
        disabled={name.trim() === '' || address.trim() === ''}
        onClose={onClose}
      />
    </form>
  )
}
