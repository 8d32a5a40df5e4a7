import { useMutation } from '@tanstack/react-query'
import { FileUp } from 'lucide-react'
import { useNavigate } from 'react-router'
import { call, problemText } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { bringFiles, PAGE_FILES, titleOf } from '#web/areas/templates/form/bring-files.ts'
import { UploadButton } from '#web/parts/upload-button.tsx'

/** One agreement of a file, without a template; `record`: whose it is. Several files become one, one behind the other. */
export function StartOneOff({
  record,
  children,
}: {
  readonly record: string | null
  readonly children: string
}) {
  const navigate = useNavigate()
  const say = useNotice()
  const start = useMutation({
    mutationFn: async (files: readonly [File, ...File[]]) => {
      const brought = await bringFiles(files)
      const title = titleOf(files[0].name, 'Agreement')
      const left = brought.flatMap(({ report }) => report.filter(({ kind }) => kind === 'left out'))
      if (left.length) say(`Left out: ${left.map(({ what }) => what).join('; ')}`)
      return call('startOneOff', { body: { title, files: brought.map(({ file }) => file), record } })
    },
    onSuccess: ({ id }) => void navigate(`/one-offs/${id}`),
    onError: (error) => say(problemText(error), 'fault'),
  })
  return (
    <UploadButton
      label="File of one agreement"
      accept={PAGE_FILES}
      multiple
      busy={start.isPending}
      onFiles={(files) => start.mutate(files)}
    >
      <FileUp size={14} /> {children}
    </UploadButton>
  )
}
