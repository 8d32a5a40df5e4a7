import { joined } from '#core/words/join.ts'
import { languageName, LANGUAGES } from '#core/languages/language.ts'
import { Upload } from 'lucide-react'
import { call, problemText } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { renew } from '#web/api/queries.ts'
import { UploadButton } from '#web/parts/upload-button.tsx'
import { useRun } from '#web/areas/runs/open-run/use-run.ts'
import type { SectionProps } from './section.ts'

const PARTS = [
  [
    'languageColumn',
    'Its language',
    `${joined(LANGUAGES.map(languageName), 'disjunction', 'en')}: formats, dates and words follow it`,
  ],
  ['copiesColumn', 'Who else gets it', 'email addresses with commas between; they get the executed document'],
  ['fileColumn', 'A file that goes along', 'the name of a file uploaded here'],
] as const

/** Columns that say of each row what is not in the document. */
export function PerRow({ setup, locked, change }: SectionProps) {
  return (
    <table className="w-full table-fixed text-sm">
      <tbody>
        {PARTS.map(([name, label, hint]) => (
          <tr key={name} className="align-top">
            <td className="w-[34%] py-0.5">{label}</td>
            <td className="w-[32%] pr-2">
              <select
                aria-label={label}
                disabled={locked}
                className="w-full rounded-sm border border-hair bg-sheet px-1 py-0.5"
                value={setup.setup[name] ?? ''}
                onChange={(event) =>
                  change((now) => ({ setup: { ...now.setup, [name]: event.target.value || null } }))
                }
              >
                <option value="">nothing</option>
                {setup.columns.map((column) => (
                  <option key={column.name}>{column.name}</option>
                ))}
              </select>
            </td>
            <td className="py-0.5 text-xs text-soft">
              {name === 'fileColumn' && setup.setup.fileColumn ? (
                <Files setup={setup} locked={locked} />
              ) : (
                hint
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function Files({ setup, locked }: Pick<SectionProps, 'setup' | 'locked'>) {
  const { run } = useRun()
  const say = useNotice()
  const upload = async (files: readonly File[]) => {
    for (const file of files)
      await call('runFile', { params: { id: run.id }, query: { name: file.name }, body: file }).catch(
        (error: unknown) => say(`${file.name}: ${problemText(error)}`, 'fault'),
      )
    await renew('runSetup', 'run', 'runRows')
  }
  return (
    <>
      {setup.files.length ? setup.files.join(', ') : 'none uploaded yet'}{' '}
      <UploadButton
        label="Files that go along"
        multiple
        disabled={locked}
        className="mt-1"
        onFiles={(files) => void upload(files)}
      >
        <Upload size={13} /> Upload files
      </UploadButton>
    </>
  )
}
