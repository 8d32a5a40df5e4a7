import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { call, problemText } from '#web/api/client.ts'
import { ENCODING_NAMES } from '#core/sheet/encodings.ts'
import { Button } from '#web/parts/button.tsx'
import { Input } from '#web/parts/input.tsx'
import type { Sheet } from './grid.ts'

const delimiters = [
  [',', 'commas'],
  [';', 'semicolons'],
  ['\t', 'tabs'],
  ['|', 'bars'],
  ['^', 'carets'],
  ['~', 'tildes'],
] as const

const look = 'h-[1.95rem] rounded-sm border border-hair bg-sheet px-1.5 py-0.5'

/** How the file is read, for where the guess was wrong: sheet, range, row of names; of text files, delimiter and encoding. */
export function SheetReading({ sheet, onDone }: { readonly sheet: Sheet; readonly onDone: () => void }) {
  const before = sheet.reading!
  const [reading, setReading] = useState(before)
  const read = useMutation({
    mutationFn: () => call('readAgain', { params: { id: sheet.id }, body: reading }),
    onSuccess: onDone,
  })
  const set = (change: Partial<typeof reading>) => setReading({ ...reading, ...change })
  return (
    <form
      aria-label="How the file is read"
      className="flex shrink-0 flex-wrap items-end gap-3 border-b border-hair bg-wash px-4 py-2 text-sm"
      onSubmit={(event) => {
        event.preventDefault()
        read.mutate()
      }}
    >
      {sheet.tables.length > 1 && (
        <label>
          <span className="block text-xs text-soft">Sheet</span>
          <select
            className={look}
            value={reading.table ?? ''}
            onChange={(event) => set({ table: event.target.value, range: null })}
          >
            {sheet.tables.map(({ name, rows }) => (
              <option key={name} value={name}>
                {name}, {rows} rows
              </option>
            ))}
          </select>
        </label>
      )}
      <label>
        <span className="block text-xs text-soft">Range</span>
        <Input
          list="named-ranges"
          className="w-36 py-0.5"
          placeholder="all, or A3:F200"
          value={reading.range ?? ''}
          onChange={(event) => set({ range: event.target.value || null })}
        />
        <datalist id="named-ranges">
          {sheet.names.map(({ name, table, range }) => (
            <option key={name} value={name}>
              {table}, {range}
            </option>
          ))}
        </datalist>
      </label>
      <label>
        <span className="block text-xs text-soft">Row of column names (0: none)</span>
        <Input
          type="number"
          min={0}
          className="w-32 py-0.5"
          title="0: no row has names, the columns keep their letters"
          placeholder={sheet.headerRow ? `found: ${sheet.headerRow}` : 'none found'}
          value={reading.headerRow ?? ''}
          onChange={(event) => set({ headerRow: event.target.value ? Number(event.target.value) : null })}
        />
      </label>
      {sheet.kind === 'text' && (
        <>
          <label>
            <span className="block text-xs text-soft">Cells divided by</span>
            <select
              className={look}
              value={reading.delimiter ?? ''}
              onChange={(event) => set({ delimiter: event.target.value })}
            >
              {delimiters.map(([sign, name]) => (
                <option key={name} value={sign}>
                  {name}
                </option>
              ))}
            </select>
          </label>
          <label>
            <span className="block text-xs text-soft">Encoding</span>
            <select
              className={look}
              value={reading.encoding ?? ''}
              onChange={(event) =>
                set({ encoding: event.target.value as NonNullable<typeof reading.encoding> })
              }
            >
              {Object.entries(ENCODING_NAMES).map(([value, name]) => (
                <option key={value} value={value}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        </>
      )}
      <Button kind="main" type="submit" busy={read.isPending}>
        Read again
      </Button>
      <Button kind="quiet" onClick={onDone}>
        Leave it
      </Button>
      {read.isError && (
        <p role="alert" className="w-full text-brick">
          {problemText(read.error)} The sheet stays as it was read.
        </p>
      )}
    </form>
  )
}
