import { useMutation } from '@tanstack/react-query'
import { useEffect, useMemo, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { placesByRole } from '#core/checks/checks.ts'
import { templateFields } from '#core/merge/fields.ts'
import { PLURALS } from '#core/records/kinds.ts'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { FormEditor } from '#web/areas/templates/form/form-editor.tsx'
import { openDrafts } from '#web/areas/templates/draft/open-drafts.ts'
import {
  STANDALONE,
  type Studio,
  StudioContext,
  useFieldScopes,
} from '#web/areas/templates/draft/studio-context.ts'
import type { Change } from '#web/areas/templates/draft/template-draft.ts'
import { useChecks } from '#web/areas/templates/draft/use-checks.ts'
import { useDraft } from '#web/drafts/use-draft.ts'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Input, Labelled, TextArea } from '#web/parts/input.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { useSettled } from '#web/parts/use-settled.ts'
import { Signers } from './signers.tsx'

type OneOff = Answer<Api['oneOff']>

/** One agreement of a file: its pages, who signs, what the mail says; then it is made. */
export default function OneOffPage() {
  const { id = '' } = useParams()
  const found = useAnswer('oneOff', { params: { id } })
  if (found.isPending) return <Loading />
  if (found.isError) return <Failed error={found.error} retry={() => void found.refetch()} />
  return <Open key={id} oneOff={found.data} />
}

function Open({ oneOff }: { readonly oneOff: OneOff }) {
  const { id, record, agreement } = oneOff
  const editable = agreement === null
  const writer = useMay('templates')
  const navigate = useNavigate()
  const say = useNotice()
  const [draft] = useState(() => openDrafts.of(oneOff, 'one-off'))
  useEffect(() => openDrafts.seen(oneOff), [oneOff])
  const { content, save } = useDraft(draft)
  const checks = useChecks(useSettled(content, 200), null)
  const all = useMemo(() => templateFields(content).all, [content])
  const scopes = useFieldScopes(all)
  const studio = useMemo<Studio>(
    () => ({
      templateId: id,
      content,
      editable,
      change: draft.change,
      all,
      checks,
      ...STANDALONE,
      ...scopes,
    }),
    [id, content, editable, draft, all, scopes, checks],
  )
  const make = useMutation({
    mutationFn: async () => {
      const version = await draft.settle()
      if (version === null) throw new Error('The draft could not be saved, so the agreement was not made.')
      return call('makeOneOff', { params: { id }, body: { version }, goesOn: true })
    },
    onSuccess: (made) => void navigate(`/agreements/${made.id}`),
    onError: (error) => say(problemText(error), 'fault'),
  })
  const keep = useMutation({
    mutationFn: async () => {
      await draft.settle()
      return call('keepOneOff', {
        params: { id },
        body: { title: draft.content.title, shelf: null },
        goesOn: true,
      })
    },
    onSuccess: (made) => {
      say('Saved as a template. Its signers are asked for each time.')
      void navigate(`/templates/${made.id}`)
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  const { title } = content
  const places = placesByRole(content)
  const idle = content.roles.find(({ key }) => !places.has(key))
  const missing =
    checks.find(({ level }) => level === 'fault')?.message ??
    (idle && `${idle.label} has nothing on the pages yet.`)
  return (
    <StudioContext value={studio}>
      <div className="flex h-full flex-col">
        <div className="flex h-12 shrink-0 items-center gap-3 border-b border-hair px-4">
          <h1 className="truncate text-lg">{title}</h1>
          {record && (
            <Link
              to={`/records/${PLURALS[record.kind]}/${record.id}`}
              className="text-sm text-petrol hover:underline"
            >
              {record.name}
            </Link>
          )}
          <span role="status" className="ml-auto text-xs text-soft">
            {save.kind === 'fault' ? save.text : save.kind === 'saved' ? 'Saved' : 'Saving …'}
          </span>
          {writer && (
            <Button busy={keep.isPending} onClick={() => keep.mutate()}>
              Save as template
            </Button>
          )}
          {agreement ? (
            <Link to={`/agreements/${agreement}`} className="text-sm text-petrol hover:underline">
              Open the agreement
            </Link>
          ) : (
            <Button
              kind="main"
              busy={make.isPending}
              disabled={content.roles.length === 0 || missing !== undefined}
              title={content.roles.length === 0 ? 'Add a signer first' : missing}
              onClick={() => make.mutate()}
            >
              Make agreement
            </Button>
          )}
        </div>
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_22rem]">
          <div className="min-h-0 overflow-hidden">
            <FormEditor draft={draft} goTo={null} />
          </div>
          <div className="flex min-h-0 flex-col gap-5 overflow-auto border-l border-hair p-4 text-sm">
            <Signers />
            <Email content={content} editable={editable} change={draft.change} />
            {missing && <p className="text-ochre">{missing}</p>}
          </div>
        </div>
      </div>
    </StudioContext>
  )
}

/** The agreement's name, and what the email says. */
function Email({
  content: { title, sending },
  editable,
  change,
}: {
  readonly content: TemplateContent
  readonly editable: boolean
  readonly change: Change
}) {
  const sent = (more: Partial<typeof sending>) =>
    change((before) => ({ ...before, sending: { ...before.sending, ...more } }), 'sending')
  return (
    <fieldset disabled={!editable} className="flex flex-col gap-2">
      <Labelled label="Name of the agreement">
        <Input
          maxLength={200}
          value={title}
          onChange={(event) => {
            const named = event.target.value
            change(
              (before) => ({
                ...before,
                title: named || 'Agreement',
                sending: {
                  ...before.sending,
                  agreementName: named || 'Agreement',
                  fileName: `{{number}} ${named}`,
                },
              }),
              'title',
            )
          }}
        />
      </Labelled>
      <Labelled label="Subject of the email">
        <Input
          maxLength={500}
          value={sending.subject}
          onChange={(event) => sent({ subject: event.target.value })}
        />
      </Labelled>
      <Labelled label="Message">
        <TextArea
          rows={4}
          value={sending.message}
          onChange={(event) => sent({ message: event.target.value })}
        />
      </Labelled>
      <p className="text-xs text-soft">
        Order, identity checks, language and reminders are set before sending.
      </p>
    </fieldset>
  )
}
