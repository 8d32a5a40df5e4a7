import { Download, Search } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useMemo, useState } from 'react'
import { isText } from '#core/document/walk.ts'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { askSource } from '#web/areas/templates/condition/use-survey.ts'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { Menu, MenuItem } from '#web/parts/menu.tsx'
import { useSettled } from '#web/parts/use-settled.ts'

/** Finds a row by what is in it, or by the longest value of a field: the one that strains its space the most. */
export function FindRow({ sheetId }: { readonly sheetId: string }) {
  const { content, templateId, chooseRow, all } = useStudio()
  const say = useNotice()
  const [open, setOpen] = useState(false)
  const [text, setText] = useState('')
  const search = useSettled(text.trim(), 200)
  const found = useAnswer(
    'sheetRows',
    { params: { id: sheetId }, query: { limit: '30', search } },
    { enabled: open && search !== '', keep: true },
  )
  const go = (row: number) => {
    chooseRow(row)
    setOpen(false)
  }
  const fields = useMemo(
    () =>
      all.filter(({ type }) => ['text', 'long text', 'address', 'email', 'money', 'choice'].includes(type)),
    [all],
  )
  const longest = async (name: string) => {
    try {
      const answer = await askSource({ templateId, content, sheetId }, { conditions: [], longest: name })
      if (answer.longest) go(answer.longest.row)
      else say('No row has a value there.')
    } catch (error) {
      say(problemText(error), 'fault')
    }
  }
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button className="rounded-sm p-1 hover:bg-wash" aria-label="Find a row" title="Find a row">
          <Search size={15} />
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          className="z-40 w-80 border border-hair bg-paper p-3 text-sm"
        >
          <input
            autoFocus
            aria-label="Words in the row"
            placeholder="Words in the row"
            className="w-full rounded-sm border border-hair bg-sheet px-2 py-1"
            value={text}
            onChange={(event) => setText(event.target.value)}
            onKeyDown={(event) => {
              const [hit] = found.data?.rows ?? []
              if (event.key === 'Enter' && hit) go(hit.row)
            }}
          />
          <ul className="mt-1 max-h-48 overflow-auto">
            {search !== '' &&
              found.data?.rows.map(({ row, cells }) => (
                <li key={row}>
                  <button
                    className="flex w-full gap-2 px-1.5 py-1 text-left hover:bg-petrol-wash"
                    onClick={() => go(row)}
                  >
                    <span className="w-9 shrink-0 text-soft tabular-nums">{row}</span>
                    <span className="truncate">{cells.filter(Boolean).slice(0, 4).join(', ')}</span>
                  </button>
                </li>
              ))}
            {search !== '' && found.data?.rows.length === 0 && (
              <li className="px-1.5 py-1 text-soft">No row has these words.</li>
            )}
          </ul>
          <label className="mt-2 flex items-center gap-2 border-t border-hair pt-2 text-soft">
            Longest
            <select
              className="min-w-0 flex-1 rounded-sm border border-hair bg-sheet px-1 py-0.5 text-ink"
              value=""
              onChange={(event) => void longest(event.target.value)}
            >
              <option value="">choose a field</option>
              {fields.map(({ name, label }) => (
                <option key={name} value={name}>
                  {label}
                </option>
              ))}
            </select>
          </label>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

/** The proof as a file, on request by a PDF standard. */
export function PrintProof({ row }: { readonly row: number | null }) {
  const { templateId, content, sheetId } = useStudio()
  const say = useNotice()
  const print = async (standard: 'ua-1' | 'a-2b' | null) => {
    try {
      const file = await call('printProof', { body: { templateId, content, sheetId, row, standard } })
      const link = document.createElement('a')
      link.href = URL.createObjectURL(file)
      link.download = `${content.title}, proof.pdf`
      link.click()
      setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
    } catch (error) {
      say(problemText(error), 'fault')
    }
  }
  return (
    <Menu
      trigger={
        <button className="rounded-sm p-1 hover:bg-wash" aria-label="Proof as a file" title="Proof as a file">
          <Download size={15} />
        </button>
      }
    >
      <MenuItem onSelect={() => void print(null)}>PDF</MenuItem>
      {/* Pages that were brought in stay as their file has them. */}
      {isText(content.document) && (
        <>
          <MenuItem onSelect={() => void print('ua-1')}>PDF/UA-1, for screen readers</MenuItem>
          <MenuItem onSelect={() => void print('a-2b')}>PDF/A-2b, to archive</MenuItem>
        </>
      )}
    </Menu>
  )
}
