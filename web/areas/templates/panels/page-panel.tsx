import { useMutation } from '@tanstack/react-query'
import { ImageUp } from 'lucide-react'
import { useState } from 'react'
import type * as v from 'valibot'
import type { lookSchema } from '#contract/studio.ts'
import { FAMILIES, HEADING_RULES, type Look } from '#core/document/look.ts'
import { type PageSetup, plainPage } from '#core/document/template.ts'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { renew } from '#web/api/queries.ts'
import { Button } from '#web/parts/button.tsx'
import { Input, Labelled, Select, TextArea } from '#web/parts/input.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { UploadButton } from '#web/parts/upload-button.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'

type LookRow = v.InferOutput<typeof lookSchema>

/** Paper, head and foot of the template, and the look its documents wear. */
export function PagePanel() {
  const { content, editable, change } = useStudio()
  const page = content.page ?? plainPage
  const set = (next: Partial<PageSetup>) =>
    change(
      (before) => ({ ...before, page: { ...(before.page ?? plainPage), ...next } }),
      `page ${Object.keys(next).join()}`,
    )
  const looks = useAnswer('looks')
  const chosen = looks.data?.find(({ id }) => id === content.look) ?? looks.data?.[0]
  return (
    <div className="min-h-0 overflow-auto p-5" tabIndex={0} role="region" aria-label="Page and look">
      <fieldset disabled={!editable} className="grid max-w-2xl grid-cols-2 gap-4">
        <Labelled label="Title">
          <Input
            value={content.title}
            onChange={(event) =>
              event.target.value.trim() &&
              change((before) => ({ ...before, title: event.target.value }), 'title')
            }
          />
        </Labelled>
        <Labelled label="Language of the wording" hint="dates, numbers and words follow it">
          <Select
            value={content.language}
            onChange={(event) => change((before) => ({ ...before, language: event.target.value }))}
          >
            {[
              ...new Set([content.language, 'en-US', 'en-GB', 'es-US', 'es-ES', 'fr-CA', 'fr-FR', 'de-DE']),
            ].map((tag) => (
              <option key={tag} value={tag}>
                {new Intl.DisplayNames('en', { type: 'language' }).of(tag)}
              </option>
            ))}
          </Select>
        </Labelled>
        <Labelled label="Paper">
          <Select
            value={page.paper}
            onChange={(event) => set({ paper: event.target.value as PageSetup['paper'] })}
          >
            <option value="us-letter">Letter</option>
            <option value="a4">A4</option>
          </Select>
        </Labelled>
        <Labelled label="Look">
          <Select
            value={chosen?.id ?? ''}
            onChange={(event) => change((before) => ({ ...before, look: event.target.value }))}
          >
            {looks.data?.map(({ id, name, own }) => (
              <option key={id} value={id}>
                {name}
                {own ? '' : ' (finished)'}
              </option>
            ))}
          </Select>
        </Labelled>
        <Labelled label="Head of each page" hint="|| parts left, middle and right">
          <Input
            value={page.header}
            onChange={(event) => set({ header: event.target.value })}
            placeholder="{{title}} || {{number}}"
          />
        </Labelled>
        <Labelled label="Foot of each page" hint="{{page}}, {{pages}}, {{number}}, {{title}} and fields">
          <Input value={page.footer} onChange={(event) => set({ footer: event.target.value })} />
        </Labelled>
      </fieldset>
      {looks.isPending && <Loading />}
      {looks.isError && <Failed error={looks.error} retry={() => void looks.refetch()} />}
      {chosen && <LookForm key={`${chosen.id} ${chosen.version}`} row={chosen} />}
    </div>
  )
}

const points = (millimetres: number) => Math.round((millimetres / 25.4) * 72 * 10) / 10
const millimetres = (value: number) => Math.round((value / 72) * 25.4)

interface LookProps {
  readonly look: Look
  readonly set: (more: Partial<Look>) => void
}

/** The style itself: a finished one can be copied, one's own changed. It is shared by all templates that use it. */
function LookForm({ row }: { readonly row: LookRow }) {
  const { editable, change } = useStudio()
  const say = useNotice()
  const [name, setName] = useState(row.own ? row.name : `${row.name}, our own`)
  const [look, setLook] = useState<Look>(row.look)
  const set = (more: Partial<Look>) => setLook((before) => ({ ...before, ...more }))
  const save = useMutation({
    mutationFn: () =>
      row.own
        ? call('saveLook', { params: { id: row.id }, body: { name, version: row.version, look } })
        : call('makeLook', { body: { name, version: 1, look } }),
    onSuccess: async (saved) => {
      await renew('looks')
      // Proofs drawn in the old look are of no use any more.
      change((before) => ({ ...before, look: saved.id }))
      say(`Style “${saved.name}” saved.`)
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  const changed = JSON.stringify(look) !== JSON.stringify(row.look) || (row.own && name !== row.name)
  return (
    <fieldset disabled={!editable} className="mt-6 max-w-2xl border-t border-hair pt-4">
      <h2 className="mb-2 text-base">
        {row.own ? `Style “${row.name}”` : `Style “${row.name}”: a change makes a copy`}
      </h2>
      <TypeAndMargins look={look} set={set} />
      <Letterhead look={look} set={set} />
      <div className="mt-3 flex items-end gap-3">
        <Labelled label="Style name">
          <Input value={name} onChange={(event) => setName(event.target.value)} />
        </Labelled>
        <Button
          kind="main"
          disabled={!changed || !name.trim()}
          busy={save.isPending}
          onClick={() => save.mutate()}
        >
          {row.own ? 'Save style' : 'Save as a new style'}
        </Button>
      </div>
    </fieldset>
  )
}

function NumberOf({
  label,
  value,
  step = 1,
  onChange,
}: {
  readonly label: string
  readonly value: number
  readonly step?: number
  readonly onChange: (value: number) => void
}) {
  return (
    <Labelled label={label}>
      <Input
        type="number"
        step={step}
        value={value}
        onChange={(event) => event.target.value !== '' && onChange(Number(event.target.value))}
      />
    </Labelled>
  )
}

function TypeAndMargins({ look, set }: LookProps) {
  return (
    <div className="grid grid-cols-4 gap-3">
      <Labelled label="Text">
        <Select
          value={look.textFamily}
          onChange={(event) => set({ textFamily: event.target.value as Look['textFamily'] })}
        >
          {FAMILIES.map((family) => (
            <option key={family}>{family}</option>
          ))}
        </Select>
      </Labelled>
      <Labelled label="Headings">
        <Select
          value={look.headingFamily}
          onChange={(event) => set({ headingFamily: event.target.value as Look['headingFamily'] })}
        >
          {FAMILIES.map((family) => (
            <option key={family}>{family}</option>
          ))}
        </Select>
      </Labelled>
      <NumberOf label="Size, points" value={look.size} step={0.5} onChange={(size) => set({ size })} />
      <NumberOf
        label="Line spacing"
        value={look.leading}
        step={0.02}
        onChange={(leading) => set({ leading })}
      />
      <Labelled label="Text color">
        <Input type="color" value={look.ink} onChange={(event) => set({ ink: event.target.value })} />
      </Labelled>
      <Labelled label="Heading color">
        <Input
          type="color"
          value={look.headingInk}
          onChange={(event) => set({ headingInk: event.target.value })}
        />
      </Labelled>
      <Labelled label="Line under titles">
        <Select
          value={look.headingRule}
          onChange={(event) => set({ headingRule: event.target.value as Look['headingRule'] })}
        >
          {HEADING_RULES.map((rule) => (
            <option key={rule}>{rule}</option>
          ))}
        </Select>
      </Labelled>
      <label className="flex items-center gap-2 self-end pb-1.5 text-sm">
        <input
          type="checkbox"
          checked={look.justified}
          onChange={(event) => set({ justified: event.target.checked })}
        />{' '}
        justified
      </label>
      {(['top', 'bottom', 'left', 'right'] as const).map((side) => (
        <NumberOf
          key={side}
          label={`Margin ${side}, mm`}
          value={millimetres(look.margins[side])}
          onChange={(value) => set({ margins: { ...look.margins, [side]: points(value) } })}
        />
      ))}
    </div>
  )
}

function Letterhead({ look, set }: LookProps) {
  const say = useNotice()
  const letterhead = (more: Partial<Look['letterhead']>) =>
    set({ letterhead: { ...look.letterhead, ...more } })
  const logo = useMutation({
    mutationFn: (file: File) => call('uploadPicture', { body: file }),
    onSuccess: ({ file }) => letterhead({ logo: file }),
    onError: (error) => say(problemText(error), 'fault'),
  })
  return (
    <div className="mt-3 grid grid-cols-4 gap-3">
      <div className="col-span-2">
        <Labelled label="Letterhead, one line each">
          <TextArea
            rows={3}
            value={look.letterhead.lines.join('\n')}
            onChange={(event) =>
              letterhead({ lines: event.target.value === '' ? [] : event.target.value.split('\n') })
            }
          />
        </Labelled>
      </div>
      <div className="text-sm">
        <span className="mb-1 block font-semibold">Logo</span>
        <UploadButton
          label="Logo file"
          accept="image/png,image/jpeg,image/svg+xml"
          busy={logo.isPending}
          onFiles={([file]) => logo.mutate(file)}
        >
          <ImageUp size={14} /> {look.letterhead.logo ? 'Replace logo' : 'Choose logo'}
        </UploadButton>
        <span className="mt-1 block text-xs text-soft">PNG, JPEG or SVG, up to 2 MB</span>
      </div>
      <div>
        <Labelled label="Position">
          <Select
            value={look.letterhead.align}
            onChange={(event) => letterhead({ align: event.target.value as Look['letterhead']['align'] })}
          >
            {['left', 'center', 'right'].map((side) => (
              <option key={side}>{side}</option>
            ))}
          </Select>
        </Labelled>
        {look.letterhead.logo && (
          <div className="mt-2 flex items-center gap-2">
            <img
              src={`/api/pictures/${look.letterhead.logo}`}
              alt="Logo"
              className="max-h-8 max-w-20 bg-white"
            />
            <button
              type="button"
              className="text-xs text-petrol underline"
              onClick={() => letterhead({ logo: null })}
            >
              Remove
            </button>
          </div>
        )}
      </div>
      {look.letterhead.logo && (
        <NumberOf
          label="Logo width, points"
          value={look.letterhead.logoWidth}
          onChange={(logoWidth) => letterhead({ logoWidth })}
        />
      )}
    </div>
  )
}
